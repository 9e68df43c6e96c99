"""A setting as a card: what has to be set in whatever slices a part for it."""

from ulvet.core.bench.setup import Setup

__all__ = ["settings_card"]


def settings_card(setup: Setup) -> tuple[tuple[str, str], ...]:
    """Rows of a setup: what, and its value with unit."""
    setting, times = setup.setting, setup.setting.times
    rows = [
        ("setting", setting.name),
        ("printer", setup.printer.name),
        ("material", setup.material.name),
        ("layer", f"{setting.layer:g} mm"),
    ]
    if setting.line is not None:
        rows.append(("line", f"{setting.line:g} mm"))
    if times.process == "resin":
        rows.append(("a layer takes", f"{times.seconds_per_layer:g} s"))
        rows.append(("first layers", f"{times.first_layers}, {times.seconds_per_first_layer:g} s each"))
    return tuple(rows)
