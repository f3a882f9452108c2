"""Print the procedures as a page: python docs/tools/write_procedures.py > docs/procedures.md."""

from typing import Final

from compass.do.procedures import CLOSING_ONE_WHEEL, OPENING_ONE_WHEEL, PARTS, PROCEDURES, SAYS
from compass.do.steps import CAUTIONS, Kind, Step
from compass.words.codes import REMEDIES

_HEAD: Final = "| | step | why | needs | only where | cautions |"


def page() -> str:
    """Return the page: what each remedy is made of, every part with its steps, the cautions."""
    lines = [
        "# Procedures",
        "",
        "Printed from `compass/do/procedures.py` and `compass/do/steps.py`, in our own words. Names in braces are",
        "figures of the corner's own plan; what nobody has said is asked for at its step. ◆ is a hold point: it is",
        "passed by its reading, a second person, or a reason with a name.",
        "",
        "## What each remedy is made of",
        "",
        "| remedy | parts, in order |",
        "|---|---|",
        *(f"| {REMEDIES[remedy]} | {', '.join(parts)} |" for remedy, parts in PROCEDURES.items()),
    ]
    lines += [
        "",
        "Where both discs of one wheel are worked on, opening and closing are done together, in the steps below: "
        f"{', '.join(OPENING_ONE_WHEEL)}; {', '.join(CLOSING_ONE_WHEEL)}. The wheel is out and in once.",
    ]
    for part, steps in PARTS.items():
        if part in (*OPENING_ONE_WHEEL, *CLOSING_ONE_WHEEL):
            continue
        lines += ["", f"## {part.capitalize()}", "", _HEAD, "|---|---|---|---|---|---|"]
        lines += [_row(step) for step in steps]
    lines += ["", "## Cautions", "", *(f"- **{name}**: {words}" for name, words in CAUTIONS.items())]
    return "\n".join(lines) + "\n"


def _row(step: Step) -> str:
    mark = {Kind.HOLD: "◆", Kind.MEASURE: "measure", Kind.CONFIRM: "see"}.get(step.kind, "")
    needs = ", ".join((*step.needs, *([f"torque: {step.torque.replace('_', ' ')}"] if step.torque else [])))
    why = step.why + (f" *{step.otherwise}*" if step.otherwise else "")
    if step.findings:
        ways = (f"{f.says} → back to “{SAYS[f.back]}”" if f.back else f.says for f in step.findings)
        why += f" It shows: {'; '.join(ways)}."
    only = ", ".join((*step.when, *(["each pass"] if step.each_pass else [])))
    return f"| {mark} | {step.says} | {why} | {needs} | {only} | {', '.join(step.cautions)} |"


if __name__ == "__main__":
    print(page(), end="")
