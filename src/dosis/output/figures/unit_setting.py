"""Units as they are printed, from any usual way of typing them: "umol L-1" becomes µmol L^{−1}."""

import re

_PREFIX = "[YZEPTGMkhdcmuµμnpfazy]?"
_UNITS = (
    "mol|M|g|L|l|m|s|min|h|d|Pa|bar|J|W|V|A|Ω|ohm|S|N|K|Hz|eV|Da|kat|U|IU|B|cd|lx|C|F|H|T|Wb|Bq|Gy|Sv|ppm|ppb|rpm|cells|"
    "counts|AU|RFU|RLU|OD"
)
_TOKEN = re.compile(rf"({_PREFIX})({_UNITS})(?:(?:\^|\*\*)?([-−+]?\d+))?")
_WORDS = {"ohm": "Ω", "degC": "°C", "deg C": "°C", "oC": "°C", "^oC": "°C", "degF": "°F", "deg": "°", "%": "%", "": ""}


def set_unit(text: str) -> str:
    """A unit in the figure's notation; what is no unit stands as it was typed.

    >>> set_unit("umol L-1"), set_unit("ug/mL"), set_unit("mL/s")
    ('µmol L^{−1}', 'µg/mL', 'mL/s')
    """
    if text.strip() in _WORDS:
        return _WORDS[text.strip()]
    parts = re.split(r"(\s*[/·.*×]\s*|\s+)", text.strip())
    made = []
    for part in parts:
        if not part:
            continue
        if re.fullmatch(r"\s*[/·.*×]\s*|\s+", part):
            sign = part.strip()
            made.append({"/": "/", "": " "}.get(sign, " · " if part != sign else "·"))
            continue
        set_part = _one(part)
        if set_part is None:
            return text
        made.append(set_part)
    return "".join(made)


def label(name: str, unit: str) -> str:
    """Quantity / unit, as axes are titled."""
    return f"{name} / {set_unit(unit)}" if unit else name


def set_title(text: str) -> str:
    """A typed title with the unit at its end, after a slash or in brackets, set properly."""
    found = re.fullmatch(r"(.*?\S)(\s*/\s*|\s*\(|\s*\[)([^()\[\]/]+(?:/[^()\[\]/]+)*)([)\]]?)", text, re.DOTALL)
    if not found:
        return text
    before, sign, unit, after = found.groups()
    if ("/" in sign) == bool(after):
        return text
    made = set_unit(unit)
    return text if made == unit else f"{before}{sign}{made}{after}"


def _one(part: str) -> str | None:
    if part in _WORDS:
        return _WORDS[part]
    bracketed = re.fullmatch(r"\((.+)\)", part)
    if bracketed:
        inner = _one(bracketed[1])
        return None if inner is None else f"({inner})"
    found = _TOKEN.fullmatch(part)
    if not found:
        return None
    prefix, unit, power = found.groups()
    prefix = "µ" if prefix in ("u", "μ", "µ") else prefix
    power = f"^{{{power.replace('-', '−').removeprefix('+')}}}" if power else ""
    return f"{prefix}{_WORDS.get(unit, unit)}{power}"
