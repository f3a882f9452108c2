"""Print the likelihood table as a page: python docs/tools/write_likelihoods.py > docs/likelihoods.md."""

from compass.cause.causes import BASE_RATES
from compass.cause.likelihoods import BY_NAME
from compass.words.codes import CAUSES, OUTCOMES, SIGNS


def page() -> str:
    """Return the page: base rates, then every sign with its reason and its odds."""
    lines = [
        "# How likely each sign is under each cause",
        "",
        "Printed from `compass/cause/likelihoods.py` and `compass/cause/causes.py`; our estimates. *Clean* is what has",
        "nothing to do with the complaint; a cause not named takes its odds.",
        "",
        "## Base rates, of a hundred complaints",
        "",
    ]
    total = sum(BASE_RATES.values())
    lines += [f"- {CAUSES[cause.value]}: {100 * rate / total:.1f}" for cause, rate in BASE_RATES.items()]
    for sign in BY_NAME.values():
        lines += ["", f"## {SIGNS[sign.name]}", "", sign.why, ""]
        lines.append("| | " + " | ".join(OUTCOMES[o] for o in sign.outcomes) + " |")
        lines.append("|---" * (len(sign.outcomes) + 1) + "|")
        rows = [("clean", sign.clean), *((CAUSES[c.value], column) for c, column in sign.given.items())]
        lines += [f"| {name} | " + " | ".join(f"{100 * p:.3g} %" for p in column) + " |" for name, column in rows]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    print(page(), end="")
