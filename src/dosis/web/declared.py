"""What is declared once in Python and shown by the page, as data that is built into it."""

from typing import Any

from dosis.output.exports.registry import EXPORTS
from dosis.run.questions.registry import QUESTIONS
from dosis.run.roles import ROLES, Role


def declared() -> dict[str, Any]:
    """Questions with the roles a reading can have in each, all roles, and exports, in the order they are offered."""
    return {
        "questions": [
            {
                "id": question.id,
                "sentence": question.sentence,
                "by": question.by,
                "note": question.note,
                "point": question.point,
                "roles": [{"role": role.value, "title": question.title(role)} for role in question.roles],
            }
            for question in QUESTIONS.values()
        ],
        "roles": {role.value: {"title": ROLES[role].title, "key": ROLES[role].key} for role in Role},
        "exports": [
            {"form": each.form, "title": each.title, "note": each.note, "pasted": each.pasted}
            for each in EXPORTS.values()
        ],
    }
