"""What the command line prints for people."""

from __future__ import annotations

from typing import Any

from golddice.core.game.views import View


def odds_text(view: View, report: dict[str, Any]) -> str:
    value = report["value"]
    rows = [f"{view.kind} {view.id} at depth {report['depth']}, {report['method']}"]
    rows.append(f"{'item':32} {'chance':>11} {'one in':>11} {'per 100':>11}   half by, 90 %, 99 %")
    for name, item in report["items"].items():
        if item["p_any"] > 0 or item["long_run_mean"] > 0:
            waits = ", ".join(str(item[f"first_{q}"] or "never") for q in (50, 90, 99))
            one_in = f"{item['one_in']:11.4g}" if item["one_in"] else f"{'never':>11}"
            rows.append(
                f"{name:32} {100 * item['p_any']:9.4g} % {one_in} {100 * item['mean']:11.4g}   {waits}"
            )
    cv = "none" if value["cv"] is None else f"{value['cv']:.4g}"
    rows.append(f"value per event: mean {value['mean']:.6g}, sd {value['sd']:.6g}, cv {cv}")
    if "after" in report:
        after = report["after"]["value"]
        rows.append(
            f"after {report['after']['events']} events: mean {after['mean']:.6g}, sd {after['sd']:.6g}, "
            f"5 % {after['p05']:.6g}, half {after['p50']:.6g}, 95 % {after['p95']:.6g}"
        )
    return "\n".join(rows)


def route_text(report: dict[str, Any]) -> str:
    rows = [f"route {report['route']}, {report['method']}"]
    if report["method"] != "exact":
        return f"{rows[0]}: {report['why']}"
    rows.append(f"{'leg':20} {'depth':>6} {'events':>10} {'seconds':>10} {'value':>12} {'sd':>12}")
    for stop in report["stops"]:
        value = stop["value"]
        rows.append(
            f"{stop['leg']:20} {stop['depth']:6} {stop['events_mean']:10.5g} {stop['seconds_mean']:10.5g} "
            f"{value['mean']:12.6g} {value['sd']:12.6g}"
        )
    if report["stops"]:
        rows.append(f"{'item, at the end':38} {'mean':>12} {'sd':>12}")
        for name, item in report["stops"][-1]["items"].items():
            if item["mean"] > 0:
                rows.append(f"{name:38} {item['mean']:12.6g} {item['sd']:12.6g}")
    return "\n".join(rows)


def trial_text(result: dict[str, Any]) -> str:
    rows = [f"{result['events']:,} events in {result['seconds']} s, digest {result['digest'][:16]}"]
    rows.append(f"{'item':32} {'mean':>11} {'expected':>11} {'z':>7} {'none':>8}   half, 90 %, 99 % by")
    for name, item in result["items"].items():
        waits = ", ".join(str(item[f"first_{q}"] or "later") for q in (50, 90, 99))
        z = "" if item["z"] is None else f"{item['z']:.2f}"
        expected = "" if item["expected_mean"] is None else f"{item['expected_mean']:.5g}"
        rows.append(
            f"{name:32} {item['mean']:11.5g} {expected:>11} {z:>7} "
            f"{100 * item['none_share']:6.2f} %   {waits}"
        )
    value = result["value"]
    rows.append(
        f"value per player: mean {value['mean']:.6g}, sd {value['sd']:.6g}, "
        f"5 % {value['p05']:.6g}, half {value['p50']:.6g}, 95 % {value['p95']:.6g}"
    )
    return "\n".join(rows)


def proposal_text(found: dict[str, Any]) -> str:
    """The numbers of a proposal, where its targets stand with them, and what else they move."""
    said = {
        "met": "every target is met with these numbers",
        "nearest": "not all can be met; this is the nearest",
        "nothing-to-do": "every target is met as it is",
    }
    rows = [said[found["status"]]]
    for one in found["numbers"]:
        rows.append(f"  {one['where']:44} {one['before']:>12.8g} -> {one['after']:.8g}")
    if found["rounding"] > 0:
        rows.append(f"few digits make the change {100 * found['rounding']:.2g} % larger than it need be")
    for one in found["targets"]:
        stands = "met" if one["met"] else "missed"
        rows.append(f"{stands:8}{one['id']:28} {_span(one['before'])} -> {_span(one['after'])}")
    for name in found["played"]:
        rows.append(f"played: {name}: of openings by the same players before and after, not exact")
    for name, why in found["untold"].items():
        rows.append(f"left out: {name}: {why}")
    if found["conflict"]:
        rows.append(f"these contradict each other, each is needed for it: {', '.join(found['conflict'])}")
    for one in found["moved"]:
        what = f"{one['of']} {one['id']}".strip()
        rows.append(
            f"also moves: {one['source']}, {what} at depth {one['depth']}: "
            f"{one['before']:.4g} -> {one['after']:.4g}"
        )
    return "\n".join(rows)


def _span(figures: list[float | None]) -> str:
    told = [figure for figure in figures if figure is not None]
    if not told:
        return "never"
    low, high = min(told), max(told)
    return f"{low:.5g}" if low == high else f"{low:.5g} to {high:.5g}"
