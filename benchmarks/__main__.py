"""`make bench`: ratios measured in one run, on the demo photos."""

from collections.abc import Callable
from statistics import mean, median

from rich.console import Console
from rich.table import Table

from benchmarks import (
    balances,
    batches,
    damage,
    deliveries,
    exhaustive,
    four_formats,
    large_photo,
    large_pictures,
    latency,
    likeness_speed,
    load,
    page_list,
    page_on_screen,
    spots_on_screen,
    tuning_on_screen,
    waiting_photos,
)
from benchmarks.photos import demo_files, synthetic_files
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.tasks.worker import warm_up

#: Gradients, texture, lettering, grain: enough to be fair, few enough to take minutes.
PHOTOS = ("dusk-window.jpg", "speckled-glaze.jpg", "opening-hours.jpg", "kiln-night.jpg")
LIMITS_BYTES = (40_000, 120_000)
#: Every encode of a photo takes most of a minute.
EXHAUSTED = ("dusk-window.jpg", "opening-hours.jpg")
TUNED = "speckled-glaze.jpg"
console = Console(width=132)


def show_four_formats(files: dict[str, bytes]) -> None:
    """Time and likeness of whole fits."""
    table = Table(
        title="Four formats at 1000 px, against bisection with Pillow's defaults, on two workers",
        title_justify="left",
    )
    for heading in ("photo", "limit", "ours", "bisection", "time ratio", "best likeness won"):
        table.add_column(heading, justify="left" if heading == "photo" else "right")
    for name in ("jpeg", "png", "webp", "avif"):
        table.add_column(f"won {name}", justify="right")
    pool = WorkerPool(PoolSettings())
    try:
        list(pool.map(len, [[]] * 4))
        rows = [
            four_formats.measure(pool, data, name, limit_bytes)
            for name, data in files.items()
            for limit_bytes in LIMITS_BYTES
        ]
    finally:
        pool.shutdown(cancel_futures=True)
    for row in rows:
        table.add_row(
            row.photo,
            f"{row.limit_bytes // 1000} kB",
            f"{row.ours_s:.1f} s",
            f"{row.bisection_s:.1f} s",
            f"{row.ours_s / row.bisection_s:.2f}",
            f"{row.ours_likeness - row.bisection_likeness:+.1f}",
            *(f"{row.won[name]:+.1f}" for name in ("jpeg", "png", "webp", "avif")),
        )
    table.add_row(
        "mean",
        "",
        f"{mean(row.ours_s for row in rows):.1f} s",
        f"{mean(row.bisection_s for row in rows):.1f} s",
        f"{mean(row.ours_s / row.bisection_s for row in rows):.2f}",
        f"{mean(row.ours_likeness - row.bisection_likeness for row in rows):+.1f}",
        *(f"{mean(r.won[n] for r in rows):+.1f}" for n in ("jpeg", "png", "webp", "avif")),
    )
    console.print(table)


def show_likeness(files: dict[str, bytes]) -> None:
    """Speed and agreement of likeness."""
    table = Table(
        title="Likeness at 1000 px, one thread, against the ssimulacra2 package",
        title_justify="left",
    )
    for heading in ("photo", "prepare", "compare", "package", "times faster", "ours", "package's"):
        table.add_column(heading, justify="left" if heading == "photo" else "right")
    for name, data in files.items():
        row = likeness_speed.measure(data, name)
        table.add_row(
            name,
            f"{row.prepare_s * 1000:.0f} ms",
            f"{row.compare_s * 1000:.0f} ms",
            f"{row.package_s * 1000:.0f} ms",
            f"{row.package_s / row.compare_s:.0f}",
            f"{row.ours:.3f}",
            f"{row.package:.3f}",
        )
    console.print(table)


def show_large_photo() -> None:
    """Memory and time of a large photo."""
    table = Table(title="A 100-megapixel JPEG in a fresh worker, for 2880 px", title_justify="left")
    for heading in ("act", "time", "peak memory", "of 1.5 GB"):
        table.add_column(heading, justify="left" if heading == "act" else "right")
    for row in large_photo.measure():
        share = row.peak_bytes / large_photo.MOST_MEMORY_BYTES
        peak = f"{row.peak_bytes / 1e6:.0f} MB"
        table.add_row(row.act, f"{row.seconds:.1f} s", peak, f"{share:.2f}")
    console.print(table)


def show_latency(title: str, files: dict[str, bytes]) -> None:
    """How long a person waits."""
    table = Table(title=f"{title}, at 1000 px on two workers", title_justify="left")
    for heading in ("photo", "first candidate", "all four", "JPEG drag", "WebP drag", "AVIF drag"):
        table.add_column(heading, justify="left" if heading == "photo" else "right")
    rows = latency.measure(files)
    for row in rows:
        drags = _drag_words([row], median)
        table.add_row(row.photo, f"{row.first_s:.1f} s", f"{row.all_s:.1f} s", *drags)
    for word, of in (("median", median), ("worst", max)):
        first_s, all_s = of([row.first_s for row in rows]), of([row.all_s for row in rows])
        table.add_row(word, f"{first_s:.1f} s", f"{all_s:.1f} s", *_drag_words(rows, of))
    console.print(table)


def _drag_words(rows: list[latency.Row], of: Callable[[list[float]], float]) -> list[str]:
    """First and real answers of each format: the median, or the worst."""
    words = []
    for name in latency.DRAGGED_FORMATS:
        first_ms = of([ms for row in rows for ms in row.drags_ms[name]])
        real_ms = of([ms for row in rows for ms in row.real_drags_ms[name]])
        words.append(f"{first_ms:.0f} / {real_ms:.0f} ms")
    return words


def show_spots_on_screen(files: dict[str, bytes]) -> None:
    """How long the damage takes to be seen."""
    table = Table(title="From the end of a search to its strip; from a key to a spot")
    table.title_justify = "left"
    for heading in ("photo", "strip", "spots", "median", "worst"):
        table.add_column(heading, justify="left" if heading == "photo" else "right")
    for row in spots_on_screen.measure(files):
        strip = "before it" if row.strip_ms <= 0 else f"{row.strip_ms:.0f} ms"
        of_spots = [f"{of(row.spots_ms):.0f} ms" if row.spots_ms else "" for of in (median, max)]
        table.add_row(row.photo, strip, str(len(row.spots_ms)), *of_spots)
    console.print(table)


def show_tuning_on_screen(name: str, data: bytes) -> None:
    """How long a press of the marker takes to be seen."""
    table = Table(title=f"From a key on the marker to the part in sight, and to the file: {name}")
    table.title_justify = "left"
    for heading in ("format", "presses", "part, median", "worst", "file, median", "worst"):
        table.add_column(heading, justify="left" if heading == "format" else "right")
    for row in tuning_on_screen.measure(name, data):
        numbers = [
            f"{of(ms):.0f} ms" for ms in (row.parts_ms, row.files_ms) for of in (median, max)
        ]
        table.add_row(row.format, str(len(row.parts_ms)), *numbers)
    console.print(table)


def show_large_pictures() -> None:
    """What the brief search of large pictures saves, and costs."""
    table = Table(title="Four formats of a large picture: searched briefly, and as any other")
    table.title_justify = "left"
    for heading in ("picture", "whole encodes", "ratio", "CPU in all", "ratio", "likeness won"):
        table.add_column(heading, justify="left" if heading == "picture" else "right")
    for row in large_pictures.measure():
        numbers = [
            text
            for brief_s, usual_s in (row.encodes_s, row.cpu_s)
            for text in (f"{brief_s:.1f} s", f"{brief_s / usual_s:.2f}")
        ]
        won = ", ".join(f"{name} {value:+.1f}" for name, value in row.won.items())
        table.add_row(row.picture, *numbers, won)
    console.print(table)


def show_waiting() -> None:
    """What waiting photos cost."""
    table = Table(title="Photos that wait to be searched", title_justify="left")
    for heading in ("waiting", "threads", "descriptors"):
        table.add_column(heading, justify="right")
    for row in waiting_photos.measure(150):
        table.add_row(str(row.waiting), str(row.threads), str(row.descriptors))
    console.print(table)


def show_page_list() -> None:
    """How the list of photos grows."""
    table = Table(title="The list of all photos, and one row of it", title_justify="left")
    for heading in ("photos", "list", "bytes", "row"):
        table.add_column(heading, justify="right")
    for row in page_list.measure((30, 300)):
        numbers = (f"{row.list_ms:.0f} ms", f"{row.list_bytes:,}", f"{row.row_ms:.0f} ms")
        table.add_row(str(row.photos), *numbers)
    console.print(table)


def show_delivery() -> None:
    """A large delivery."""
    row = deliveries.measure(150)
    table = Table(title="A delivery: what goes out, and an archive of it", title_justify="left")
    for heading in ("photos", "files", "read", "archive", "made in", "memory grew by"):
        table.add_column(heading, justify="right")
    archive = f"{row.zip_bytes / 1e6:.0f} MB"
    sizes = (f"{row.plan_ms:.0f} ms", archive, f"{row.zip_s:.1f} s")
    table.add_row(str(row.photos), str(row.files), *sizes, f"{row.grown_bytes / 1e6:.0f} MB")
    console.print(table)


def show_page_on_screen() -> None:
    """Hundreds of photos in the browser."""
    row = page_on_screen.measure(300)
    table = Table(title="300 photos, one of them broken, dropped at once; and their page")
    table.title_justify = "left"
    for heading in ("what", "figure"):
        table.add_column(heading, justify="left" if heading == "what" else "right")
    table.add_row("taken in", f"{row.dropped_s:.0f} s")
    table.add_row("a third after another", ", ".join(f"{each:.0f} s" for each in row.thirds_s))
    table.add_row("most memory of the server, before and at the end", _megabytes(row.memory_bytes))
    table.add_row("refused, by name", str(row.refused))
    table.add_row("page opens", f"{row.opens_ms:.0f} ms")
    table.add_row("rows drawn of them", str(row.rows_drawn))
    table.add_row("longest frame while scrolling to the end", f"{row.longest_frame_ms:.0f} ms")
    console.print(table)


def _megabytes(sizes_bytes: tuple[int, int]) -> str:
    return ", ".join(f"{each / 1e6:.0f} MB" for each in sizes_bytes)


def show_load() -> None:
    """What many clients wait for."""
    row = load.measure()
    table = Table(
        title=f"{load.CLIENTS} clients for {load.SECONDS} s, {load.PHOTOS} photos, two workers",
        title_justify="left",
    )
    table.add_column("request")
    for heading in ("answers", "median", "99 %", "at most"):
        table.add_column(heading, justify="right")
    for kind, taken_s in row.taken_s.items():
        longest = sorted(taken_s)
        at = (longest[len(longest) // 2], longest[len(longest) * 99 // 100], longest[-1])
        table.add_row(kind, str(len(longest)), *(f"{1000 * each:.0f} ms" for each in at))
    console.print(table)
    fewest, most = min(row.answers), max(row.answers)
    memory = " -> ".join(f"{each / 1e6:.0f} MB" for each in row.memory_bytes)
    console.print(f"answers a client: {fewest} to {most}; memory of the server: {memory}")


def show_batches() -> None:
    """What workers are worth, on this machine and by the network, and what memory a batch takes."""
    table = Table(title=f"A batch of {batches.PHOTOS} photos at 400 px", title_justify="left")
    for heading in (
        "workers",
        "seconds",
        "times one",
        "memory at a third",
        "two thirds",
        "the end",
    ):
        table.add_column(heading, justify="right")
    rows = batches.measure()
    for row in rows:
        memory = [f"{each / 1e6:.0f} MB" for each in row.memory_bytes]
        ratio = f"{rows[0].seconds / row.seconds:.2f}"
        where = f"{row.workers}, Dask" if row.is_cluster else str(row.workers)
        table.add_row(where, f"{row.seconds:.1f}", ratio, *memory)
    console.print(table)


def show_balances() -> None:
    """What a balance gains."""
    table = Table(title=f"The bytes of {batches.PHOTOS} photos, spent", title_justify="left")
    for heading in ("", "bytes", "worst likeness", "mean", "encodes made", "off by at most"):
        table.add_column(heading, justify="right" if heading else "left")
    for row in balances.measure():
        numbers = (f"{row.worst:.1f}", f"{row.mean:.1f}", str(row.encodes))
        off = f"±{row.uncertainty:.1f}" if row.encodes else ""
        table.add_row(row.spent, f"{row.bytes:,}", *numbers, off)
    console.print(table)


def show_exhaustive(files: dict[str, bytes]) -> None:
    """The joint search against everything."""
    table = Table(
        title=f"The joint search against every encode of its space, {exhaustive.WIDTH_PX} px",
        title_justify="left",
    )
    for heading in ("photo", "limit", "ours", "everything", "lost", "encodes", "of all"):
        table.add_column(heading, justify="left" if heading == "photo" else "right")
    for row in exhaustive.measure(files):
        table.add_row(
            row.photo,
            f"{row.limit_bytes / 1000:g} kB",
            f"{row.ours:.2f}",
            f"{row.exhaustive:.2f}",
            f"{row.exhaustive - row.ours:.2f}",
            str(row.our_encodes),
            f"{row.our_encodes / row.all_encodes:.3f}",
        )
    console.print(table)


def main() -> None:
    """Everything, one after the other: two cores measure one thing at a time."""
    warm_up()
    files = {name: data for name, data in demo_files().items() if name in PHOTOS}
    show_large_photo()
    show_large_pictures()
    show_likeness(files)
    damage.show(console)
    show_four_formats(files)
    show_latency("From adding a demo photo; a drag's part in sight / its file", demo_files())
    show_latency("The same with synthetic photos of 12 megapixels", synthetic_files())
    show_spots_on_screen(files)
    show_tuning_on_screen(TUNED, files[TUNED])
    show_waiting()
    show_page_list()
    show_delivery()
    show_page_on_screen()
    show_load()
    show_batches()
    show_balances()
    show_exhaustive({name: files[name] for name in EXHAUSTED})


if __name__ == "__main__":
    main()
