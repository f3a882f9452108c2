"""Print rules and policies as a page: python docs/tools/write_rules.py > docs/rules.md."""

from compass.choose.axle import kind_of_metal
from compass.choose.offers import REMEDIES
from compass.choose.policies import LIKELY, POLICIES, WELL
from compass.choose.rules import FORBIDS, NOTHING_OVER, OTHER_SIDE_NEEDS_METAL, REASONS, WANTS_MEASURING
from compass.evidence.shop import MINUTES, PRICES
from compass.words.codes import REMEDIES as NAMES


def page() -> str:
    """Return the page: remedies with our estimates, every rule with its reason, the policies."""
    lines = [
        "# Remedies, rules and policies",
        "",
        "Printed from `compass/choose/rules.py`, `compass/choose/policies.py` and `compass/evidence/shop.py`. "
        "No policy overrides a rule.",
        "",
        "## Remedies",
        "",
        "Minutes at one corner are our estimates until the workshop says its own.",
        "",
        "| code | remedy | minutes | both sides alike |",
        "|---|---|---|---|",
    ]
    for code in REMEDIES:
        minutes = sum(MINUTES[part] for part in code.split("+"))
        lines.append(f"| `{code}` | {NAMES[code]} | {minutes:g} | {'yes' if kind_of_metal(code) else 'no'} |")
    prices = ", ".join(f"{name.replace('_', ' ')} {price:g}" for name, price in PRICES.items())
    lines += ["", f"Prices, where the workshop says nothing, in its own currency: {prices}.", "", "## Rules", ""]
    lines += [
        "The number is the trade's rule; 0: it cannot be done or cannot be known yet. A star: a measurement opens it.",
        "",
        "| rule | number | asked of | reason |",
        "|---|---|---|---|",
    ]
    for rule in FORBIDS:
        star = " *" if rule.code in WANTS_MEASURING else ""
        asked_of = ", ".join(f"`{code}`" for code in rule.of) or "every remedy"
        lines.append(f"| `{rule.code}`{star} | {rule.number} | {asked_of} | {rule.reason} |")
    for code in (OTHER_SIDE_NEEDS_METAL, NOTHING_OVER):
        lines.append(f"| `{code}` | 7 | both sides of an axle | {REASONS[code]} |")
    lines += [
        "",
        "## Policies",
        "",
        f"Within the rules, remedies with odds under {LIKELY:g} of landing within stand behind the others. A policy",
        f"puts what it prefers first where the odds are {WELL:g} or better; then the lower of price plus odds of a",
        "comeback times what it costs.",
        "",
        "| policy | prefers | why |",
        "|---|---|---|",
    ]
    for policy in POLICIES.values():
        prefers = ", ".join(f"`{code}`" for code in policy.prefers) or "–"
        lines.append(f"| `{policy.code}` | {prefers} | {policy.reason} |")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    print(page(), end="")
