"""Run every measurement and print the tables."""

from benchmarks import board, deciding, geometry, mistakes, photos, serving, trials


def show(title: str, head: list[str], rows: list[list[str]]) -> None:
    widths = [max(len(row[k]) for row in [head, *rows]) for k in range(len(head))]
    print(f"\n{title}\n")
    for row in [head, ["-" * w for w in widths], *rows]:
        print("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)))


show(
    "Trials until zero lash is known within 0.003 in and the program says so",
    ["2000 simulated builders, seeded", "mean", "95 %", "within 0.003", "99 % error, thou"],
    trials.table(),
)
show(
    "Mistakes injected into sound builds (0.015: faults greater than that)",
    ["600 seeded builds each", "caught", "above 0.015", "cause first", "cause listed"],
    mistakes.table(),
)
show("Rocker geometry", ["what", "measured", "wanted"], geometry.table())
show(
    "Marks read off made photos, first guess, thou (gross: above 5)",
    ["40 seeded photos each", "median", "90 %", "gross", "not clear"],
    photos.table(),
)
show("Deciding, papers, gauge", ["what", "measured", "wanted"], deciding.table())
show("Speed", ["what", "measured", "wanted"], serving.table())
show(
    "2,000 builds of 16 valves and 10 readings",
    ["answer", "median", "95 %", "wanted"],
    board.table(),
)
