"""Builds made up by chance, for the planner: assemblies, zones, wear, lamps, jobs, and evenings at the bench."""

from datetime import datetime, time
from random import Random

from chalkreel.core.convert.operations import Operation
from chalkreel.core.finish.calendar import BenchSession
from chalkreel.core.finish.stacks import FACTS, WEARS, AssemblyPlan, Decal, Fact, Role, Schools, Wear, ZonePlan
from chalkreel.core.materials import Medium

MONDAY = datetime(2027, 3, 1)
NAMES = ("gondola", "envelope", "fin port", "fin starboard", "rudder", "engine", "cradle", "ladder", "mast", "cabin",
         "keel", "winch")  # fmt: skip
MEDIA: tuple[Medium, ...] = ("water acrylic", "water acrylic", "alcohol acrylic", "lacquer", "enamel")


def made_build(seed: int) -> tuple[tuple[AssemblyPlan, ...], Schools, tuple[BenchSession, ...]]:
    """Three to twelve assemblies with five to forty zones between them."""
    random = Random(seed)
    count = random.randint(3, 12)
    zones = random.randint(5, 40)
    share = [zones // count + (number < zones % count) for number in range(count)]
    plans = tuple(_assembly(NAMES[number], max(1, share[number]), random) for number in range(count))
    schools = Schools(
        random.choice(("medium", "salt", "liquid mask", "sponge")), random.choice(("putty", "CA", "epoxy"))
    )
    return plans, schools, _evenings(random)


def small_build(seed: int) -> tuple[tuple[AssemblyPlan, ...], tuple[BenchSession, ...]]:
    """One or two assemblies of one to three zones."""
    random = Random(seed)
    plans = tuple(_assembly(NAMES[n], random.randint(1, 3), random) for n in range(random.randint(1, 2)))
    return plans, _evenings(random)


def _assembly(name: str, zones: int, random: Random) -> AssemblyPlan:
    # One kind of paint an assembly, but for enamel over acrylic: other mixtures attack one another whatever the order.
    medium = random.choice(MEDIA)
    plans = [_base(f"{name} ground", name, medium, random)]
    for number in range(1, zones):
        role: Role = random.choice(("stripe", "stripe", "stripe", "base", "glass", "bright metal"))
        upper = "enamel" if medium == "water acrylic" and random.random() < 0.3 else medium
        plans.append(
            ZonePlan(
                f"{name} {number}", name, f"colour {random.randint(1, 9)}", upper if role == "stripe" else medium,
                random.choice(("matte", "satin", "gloss")), role, (), random.random() < 0.2,
                random.choice((None, random.uniform(10, 95))), random.randint(1, 3),
                vivid=role == "stripe" and random.random() < 0.3,
            )
        )  # fmt: skip
    jobs = tuple(
        Operation(f"{name} part {n}", "add", "seen", "sheet", None, random.uniform(0.3, 5), random.choice(
            ("before primer", "before closing", "after base colour", "after decals", "after matte coat")))
        for n in range(random.randint(0, 2))
    )  # fmt: skip
    facts: tuple[Fact, ...] = tuple(fact for fact in FACTS[:4] if random.random() < 0.3)
    facts += ("printed",) if len(name) % 3 == 0 else ()
    return AssemblyPlan(name, tuple(plans), jobs, random.random() < 0.3, facts)


def _base(name: str, assembly: str, medium: Medium, random: Random) -> ZonePlan:
    role: Role = "metal" if random.random() < 0.15 else "base"
    wear: list[Wear] = [wear for wear in WEARS if wear != "chipping" and random.random() < 0.4]
    if role == "base" and medium in ("water acrylic", "alcohol acrylic") and random.random() < 0.4:
        wear.append("chipping")
    return ZonePlan(
        name, assembly, f"colour {random.randint(1, 9)}", medium, random.choice(("matte", "satin", "gloss")), role,
        tuple(wear), random.random() < 0.5, random.choice((None, random.uniform(10, 95))), random.randint(1, 3),
        vivid=role == "base" and random.random() < 0.2,
        # Some kits have a sheet of them.
        decal_list=tuple(Decal(f"mark {n}", n % 3 == 1) for n in range(4 * (len(name) % 2))),
    )  # fmt: skip


def _evenings(random: Random) -> tuple[BenchSession, ...]:
    """Two to four evenings a week and a long Saturday; sometimes past midnight."""
    days = random.sample(range(5), random.randint(2, 4))
    late = random.random() < 0.2
    evenings = [
        BenchSession(day, time(21) if late else time(19, 30), time(1) if late else time(22, 30)) for day in days
    ]
    return (*evenings, BenchSession(5, time(10), time(17)))
