"""Whether a layout can be built: what speaks against it beyond what the start has itself."""

from desk.forecast.document import Oracle
from desk.forecast.rules import RULES

# Errors of the case and of what stands in it whatever the fans do: a layout is not ruled out for what the start has as well.
OF_THE_CASE = frozenset({"does_not_fit", "family_excluded", "no_assembly_order", "radiator_too_small", "pump_at_top"})
# A part at its limit is no error here: what it gives up counts as kelvins, and the limits asked for say what is allowed.
COUNTED = frozenset({"cpu_at_limit", "card_at_limit"})
# The rules that can find an error; a test holds that no other does.
ERROR_RULES = frozenset({"fit", "leads", "stock", "radiator_fans_opposed", "radiator_without_fan", "radiator_too_small", "pump_at_top"})


def errors_of(oracle: Oracle, layout_id: str) -> set[tuple[str, tuple[str, ...]]]:
    """(code, mounts) of what speaks against building a layout; what the person accepted does not."""
    about = oracle.about(layout_id)
    accepted = {(a.code, frozenset(a.mounts)) for a in oracle.resolver.layout(layout_id).accepted}
    found = [f for rule in RULES if rule.name in ERROR_RULES for f in rule.find(about) if f.severity == "error" and f.code not in COUNTED]
    return {
        (f.code, f.mounts if f.code != "stock_short" else ())
        for f in found
        if not accepted & {(f.code, frozenset(f.mounts)), (f.code, frozenset())}
    }
