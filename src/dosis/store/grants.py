"""What the program's own database account may do: what is written once – the ledger, its seals, signatures – it can add
to and read, but neither change nor delete. Another account owns the schema, and migrates it."""

from dosis.store.database import Cursor, Database

WRITTEN_ONCE = ("ledger", "ledger_seal", "signature", "review_step", "shelf_before", "migration")


def give(owner: Database, program: Database) -> None:
    """Give the program's account what it needs of every table there is. Nothing, where the owner is the program."""
    if owner.url == program.url:
        return
    with program.transaction() as db:
        name, _, host = str((db.one("SELECT CURRENT_USER() AS found") or {})["found"]).rpartition("@")
    with owner.transaction() as db:
        schema: str = (db.one("SELECT DATABASE() AS name") or {})["name"]
        for row in db.all("SHOW TABLES"):
            table = next(iter(row.values()))
            rights = "SELECT, INSERT" if table in WRITTEN_ONCE else "SELECT, INSERT, UPDATE, DELETE"
            db.run(f"GRANT {rights} ON `{schema}`.`{table}` TO '{name}'@'{host}'")


def may_rewrite(program: Cursor) -> bool:
    """Whether the account could change the ledger after all."""
    rows = program.all("SHOW GRANTS")
    said = [next(iter(row.values())) for row in rows]
    schema: str = (program.one("SELECT DATABASE() AS name") or {})["name"]
    wide = (f"ON `{schema}`.* ", "ON *.* ", f"ON `{schema}`.`ledger` ")
    strong = ("ALL PRIVILEGES", "UPDATE", "DELETE", "DROP", "ALTER")
    return any(place in each and any(right in each.split(" ON ")[0] for right in strong)
               for each in said for place in wide)  # fmt: skip
