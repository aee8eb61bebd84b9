"""How long paint, varnish, glue and filler take to dry, and how much a room slows that down.

The waits are ranges of the trade at 20 °C and 50 % humidity; the label on the user's own product goes first.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from math import exp, log
from typing import Final, Literal

from chalkreel.core.errors import RefusedError

State = Literal["recoat", "touch", "tape", "over"]
Hours = tuple[float, float]

GAS_CONSTANT: Final = 8.314e-3  # kJ/(mol K)
KELVIN: Final = 273.15
ROOM_C: Final = 20.0
ROOM_HUMIDITY: Final = 0.5
# Outside these no time is computed: acrylic forms no film in the cold, and all paint goes wrong in heat and wet.
LEAST_C, MOST_C, MOST_HUMIDITY = 10.0, 30.0, 0.8
LEAST_FACTOR, MOST_FACTOR = 0.6, 3.0
# A reading counts as much as half of the tables; less and more than these times their hours is a slip of the pen, and
# a smaller change is not worth telling.
PRIOR_WEIGHT, LEAST_RATIO, MOST_RATIO, LEAST_LEARNT = 2.0, 0.1, 10.0, 1.1
# Two sprayed coats; up to 30 µm the solvent leaves in proportion to thickness, beyond it has to diffuse.
USUAL_FILM_UM, THICK_FILM_UM = 24.0, 30.0


@dataclass(frozen=True)
class Room:
    """The air in which things dry: °C and relative humidity (0 to 1); `own` is how many times longer materials took in
    this workshop than the tables say, once its air was taken off. In a warm `cabinet` what bears it waits half as long.
    """

    celsius: float = ROOM_C
    humidity: float = ROOM_HUMIDITY
    own: tuple[tuple[str, float], ...] = ()
    cabinet: bool = False


USUAL_ROOM: Final = Room()
# A cabinet of 35 to 40 °C halves the waits; heat warps these, whatever is painted on them.
CABINET_SHARE: Final = 0.5
UNHEATED: Final = frozenset({"vinyl", "foam", "printed"})


@dataclass(frozen=True)
class Drying:
    """Low and high hours until a layer may be touched, taped, and laid over with something else.

    A next coat of the same paint goes on at touch-dry, or after the `recoat` hours of slow paints. Tape comes off
    within `soft` hours of spraying. `energy` (kJ/mol) says how much cold slows it; `carrier` is what
    has to leave, or in.
    """

    touch: Hours
    tape: Hours
    over: Hours
    energy: float
    carrier: Literal["water", "solvent", "oxygen", "reaction", "moisture"]
    soft: float = 2.0
    recoat: Hours | None = None

    def hours(self, state: State) -> Hours:
        """Low and high hours until a state is reached."""
        by_state = {"recoat": self.recoat or self.touch, "touch": self.touch, "tape": self.tape, "over": self.over}
        return by_state[state]


_NEVER: Final = (1e4, 1e4)
# Activation energies are effective exponents: 10 °C colder slows solvents 1.7, water 1.9, epoxy 2.2, oils 2.6 times.
DRYING: Final[dict[str, Drying]] = {
    "water acrylic": Drying((0.33, 1), (24, 24), (24, 24), 44, "water", 2),
    "alcohol acrylic": Drying((0.17, 0.33), (6, 24), (6, 24), 35, "solvent", 1.5),
    "lacquer": Drying((0.17, 0.17), (2, 6), (2, 24), 35, "solvent", 1),
    "enamel": Drying((4, 8), (24, 48), (24, 72), 65, "oxygen", 14, (0.25, 0.5)),
    "oil": Drying((24, 48), (48, 120), (48, 120), 65, "oxygen", 14),
    "clear acrylic": Drying((0.5, 1), (24, 48), (48, 48), 44, "water", 4),
    "chrome": Drying((1, 24), _NEVER, (24, 168), 35, "solvent"),
    "varnish": Drying((0.33, 1), (12, 24), (4, 24), 44, "water"),
    "decals": Drying((12, 24), _NEVER, (12, 24), 44, "water"),
    "primer": Drying((0.17, 1), (24, 72), (1, 24), 35, "solvent"),
    "chipping medium": Drying((0.5, 0.5), _NEVER, (0.5, 0.5), 44, "water"),
    "cement": Drying((0.5, 1), (24, 24), (24, 24), 35, "solvent"),
    "putty": Drying((1, 1), (1, 24), (1, 24), 35, "solvent"),
    "epoxy": Drying((24, 24), (24, 24), (24, 24), 55, "reaction"),
    "foam": Drying((1, 2), (12, 24), (12, 24), 44, "moisture"),
    "CA": Drying((0.1, 0.2), (0.2, 1), (0.2, 1), 44, "moisture"),
}


def check_room(room: Room) -> None:
    """Refuse a room for which no time can be told.

    Raises
    ------
    RefusedError
        Colder than 10 °C, warmer than 30 °C, or above 80 % humidity.
    """
    if not LEAST_C <= room.celsius <= MOST_C:
        raise RefusedError(
            f"At {room.celsius:.0f} °C paint does not dry as it should, and no time can be told. "
            f"Wait for a room between {LEAST_C:.0f} and {MOST_C:.0f} °C."
        )
    if room.humidity > MOST_HUMIDITY:
        raise RefusedError(
            f"At {room.humidity * 100:.0f} % humidity lacquer blushes and water stays in the paint, and no time can be "
            f"told. Wait until it is below {MOST_HUMIDITY * 100:.0f} %."
        )


def slowness(material: str, room: Room, film_um: float = USUAL_FILM_UM) -> float:
    """How many times longer a layer takes in a room, and as thick as it is, than the waits at 20 °C and 50 % say.

    Raises
    ------
    RefusedError
        A room for which no time can be told.
    """
    check_room(room)
    drying = DRYING[material]
    kelvin = room.celsius + KELVIN
    cold = exp(drying.energy / GAS_CONSTANT * (1 / kelvin - 1 / (ROOM_C + KELVIN)))
    factor = cold * _damp(drying.carrier, room.humidity) * _thick(film_um)
    return min(max(factor, LEAST_FACTOR), MOST_FACTOR) * dict(room.own).get(material, 1.0)


@dataclass(frozen=True)
class Dried:
    """After how many hours something was touch-dry, and in what air."""

    material: str
    hours: float
    room: Room = USUAL_ROOM


def learnt(found: Iterable[Dried]) -> tuple[tuple[str, float], ...]:
    """How many times longer than the slow end of the tables materials took; nothing is learnt to be quicker.

    Times are log-normal; each material begins at the tables' with the weight of two readings (conjugate normal mean). A
    label's wait may be too long for a dry surface and still be needed by what goes over it: only longer ones count.
    """
    ratios: dict[str, list[float]] = defaultdict(list)
    for one in found:
        try:
            ratio = one.hours / waits(one.material, "touch", one.room)[1] if one.material in DRYING else 0.0
        except RefusedError:
            # In air for which no time is told nothing can be learnt.
            continue
        if LEAST_RATIO <= ratio <= MOST_RATIO:
            ratios[one.material].append(log(ratio))
    means = ((material, exp(sum(logs) / (PRIOR_WEIGHT + len(logs)))) for material, logs in ratios.items())
    return tuple(sorted((material, mean) for material, mean in means if mean >= LEAST_LEARNT))


def waits(material: str, state: State, room: Room = USUAL_ROOM, film_um: float = USUAL_FILM_UM) -> Hours:
    """Low and high hours from the end of a coat until it is touch-dry, tape-dry, or ready for something over it."""
    low, high = DRYING[material].hours(state)
    factor = slowness(material, room, film_um)
    return low * factor, high * factor


def _damp(carrier: str, humidity: float) -> float:
    if carrier == "water":
        return (1 - ROOM_HUMIDITY) / (1 - humidity)
    if carrier == "oxygen":
        return 1 + 0.5 * max(0.0, humidity - ROOM_HUMIDITY)
    if carrier == "moisture":
        return ROOM_HUMIDITY / max(humidity, 0.2)
    return 1.0


def _thick(film_um: float) -> float:
    """Never quicker than usual: the tables are for sprayed coats already."""
    if film_um <= THICK_FILM_UM:
        return max(1.0, film_um / USUAL_FILM_UM)
    return (THICK_FILM_UM / USUAL_FILM_UM) * (film_um / THICK_FILM_UM) ** 2
