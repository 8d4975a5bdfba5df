"""Outcomes of version 2: answers as records of two kinds, and what belongs to one question beside all the rest."""

from typing import Any

Data = dict[str, Any]
NOTHING: Data = {
    "value": None, "lower": None, "upper": None, "censor": "", "shown": "—", "shown_lower": "", "shown_upper": "",
}  # fmt: skip
SHAPE = (
    ("minus_log", "-log10 of the dose"), ("lower", "Lower plateau"), ("upper", "Upper plateau"),
    ("area", "Area over log dose"),
)  # fmt: skip


def upgrade(data: Data) -> Data:
    """Answers as one table, all curves in one list, and the question's own part."""
    effects, curves = data.get("effects", ()), data.get("curves") or [data["curve"]]
    kinds = {step["kind"] for step in data["steps"]}
    if "quantal" in kinds or "dose_curve" in kinds:
        kind = "mortality" if "quantal" in kinds else "dose"
        answers = _of_effects(effects, data["level_unit"], counted=kind == "mortality")
    else:
        kind = "additions" if "additions" in kinds else "concentration"
        answers = _of_samples(data["answers"], data["level_unit"], data["signal_label"])
    own = {"dose": ("references", "comparisons"), "mortality": ("comparisons", "over_time")}.get(kind, ())
    part = {"kind": kind, **{name: data.get(name, ()) for name in own}}
    gone = {"curve", "effects", "references", "comparisons", "over_time"}
    kept = {key: value for key, value in data.items() if key not in gone}
    return {**kept, "curves": curves, "answers": answers, "part": part}


def _of_samples(old: list[Data], unit: str, signal: str) -> Data:
    def percent(share: float | None) -> float | None:
        return None if share is None else 100 * share

    rows = [
        {**{key: each.get(key) for key in ("name", "group", "role", "reading", "curve")},
         "key": each.get("key") or each["group"], "curve": each.get("curve", ""), "remarks": each.get("remarks", ())}
        for each in old
    ]  # fmt: skip
    recoveries = [
        {"value": percent(each.get("recovery")), "lower": percent(each.get("recovery_lower")),
         "upper": percent(each.get("recovery_upper")), "shown": each.get("shown_recovery", "")}
        for each in old
    ]  # fmt: skip
    known = [each.get("nominal") for each in old]
    columns = [
        _texts("role", "Role", [{"qc": "QC"}.get(each["role"], each["role"]) for each in old], where="exports"),
        _numbers("n", "Readings used", [each["n"] for each in old], [_counted(each) for each in old], kind="count",
                 short="n"),
        _numbers("n_all", "Readings", [each["n_all"] for each in old], [str(each["n_all"]) for each in old],
                 kind="count", where="exports"),
        _numbers("signal", "Signal", [each["signal"] for each in old], [each["shown_signal"] for each in old],
                 unit=signal, short="Signal"),
        _numbers("sd", "SD", [each["sd"] for each in old], ["—" if each["sd"] is None else f"{each['sd']:.3g}"
                                                           for each in old], where="exports"),
        _numbers("cv", "CV", [percent(each["cv"]) for each in old], [each["shown_cv"] for each in old], unit="%"),
        _values("in_reading", "In reading", [each["in_reading"] for each in old], unit=unit, short="In reading",
                level=0.95, interval="always"),
        _numbers("dilution", "Dilution", [each["dilution"] for each in old], [each["shown_dilution"] for each in old]),
        _values("in_sample", "In sample", [each["in_sample"] for each in old], unit=unit, short="In sample", lead=True),
        _numbers("known", "Known or added", known, ["" if level is None else f"{level:g}" for level in known],
                 unit=unit, where="exports"),
        _values("recovery", "Recovery", recoveries, unit="%"),
        _texts("curve", "Curve", [each.get("curve", "") for each in old], where="exports"),
    ]  # fmt: skip
    return {"of": "Name", "rows": rows, "columns": columns}


def _counted(answer: Data) -> str:
    return str(answer["n"]) if answer["n"] == answer["n_all"] else f"{answer['n']} of {answer['n_all']}"


def _of_effects(effects: list[Data], unit: str, *, counted: bool) -> Data:
    rows = [
        {**{key: each[key] for key in ("series", "name", "group")}, "key": each["series"], "role": "dose",
         "curve": each["name"], "remarks": each.get("remarks", ())}
        for each in effects
    ]  # fmt: skip
    columns: list[Data] = []
    symbols = {each.get("symbol", "EC") for each in effects}
    symbol = symbols.pop() if len(symbols) == 1 else "EC"
    for i, first in enumerate(effects[0]["doses"] if effects else ()):
        percent, doses = f"{first['percent']:g}", [each["doses"][i] for each in effects]
        name, where = f"{symbol}{percent}", "more" if i else "always"
        kinds = ("relative",) if counted else ("relative", "absolute", "between")
        for kind in kinds:
            named = name if counted else f"{name} {'interpolated' if kind == 'between' else kind}"
            cells, lead = [dose.get(kind, NOTHING) for dose in doses], kind == "relative"
            with_interval = {} if kind == "between" else {"level": 0.95, "interval": "always"}
            columns.append(_values(
                f"{kind}_{percent}", named, cells, unit=unit, short=named, lead=lead, working=f"effect.{percent}",
                where="always" if lead else where, **with_interval,
            ))  # fmt: skip
    shapes = [each.get("shape", {}) for each in effects]
    columns.append(_values("slope", "Slope", [shape.get("slope", NOTHING) for shape in shapes]))
    if counted:
        columns += [_values(id, name, [each.get(id, NOTHING) for each in effects], unit=unit, short=name)
                    for id, name in (("spearman", "Spearman–Kärber"), ("trimmed", "Trimmed"))]  # fmt: skip
        columns.append(_texts("fit", "Fit", [each.get("shown_fit") or "—" for each in effects]))
    else:
        columns.append(_numbers("r_squared", "R2", [each.get("r_squared") for each in effects],
                                [each.get("shown_r_squared", "—") for each in effects], short="R²"))  # fmt: skip
        columns += [_values(id, name, [shape.get(id, NOTHING) for shape in shapes], where="more") for id, name in SHAPE]
    columns.append(_numbers("n", "Readings", [each["n"] for each in effects], [str(each["n"]) for each in effects],
                            kind="count", where="exports"))  # fmt: skip
    return {"of": "Series", "rows": rows, "columns": columns if effects else ()}


def _texts(id: str, name: str, cells: list[Any], **more: Any) -> Data:
    return {"id": id, "name": name, "kind": "text", "texts": cells, **more}


def _numbers(id: str, name: str, values: list[float | None], texts: list[str], **more: Any) -> Data:
    return {"id": id, "name": name, "kind": "number", "values": values, "texts": texts, **more}


def _values(id: str, name: str, cells: list[Data], **more: Any) -> Data:
    whole = [{**NOTHING, **cell} for cell in cells]
    fields = {
        "texts": "shown", "values": "value", "censors": "censor", "lowers": "lower", "uppers": "upper",
        "lower_texts": "shown_lower", "upper_texts": "shown_upper",
    }  # fmt: skip
    columns = {field: [cell[key] for cell in whole] for field, key in fields.items()}
    return {"id": id, "name": name, "kind": "value", **columns, **more}
