"""Every rule, with a plan that breaks it and one that keeps it, told as steps on a clock."""

from datetime import datetime, timedelta

import pytest

from chalkreel.core.finish.drying import USUAL_ROOM
from chalkreel.core.finish.limits import limits
from chalkreel.core.finish.order import violations
from chalkreel.core.finish.rules import rule_book
from chalkreel.core.finish.steps import Step, step_kinds
from chalkreel.core.finish.timing import uncured, untimely

MIDNIGHT = datetime(2027, 3, 1)

# Number: what breaks the rule | what keeps it. A step is kind[@zone][!paint][+fact] and the hour it begins; each takes
# six minutes. "z" is the usual zone of a painted step, A another assembly than H.
CASES = """
1   prime 0 | clean 0, prime 9
2   clean 0, rework 0.4 | clean 0, rework 4
3   prime 0, rework 30 | rework 0, prime 30
3   prime+printed 0 | smooth 0, prime+printed 30
4   close 0, sand 12 | close 0, sand 25
5   close 0, prime 30 | close 0, sand 30, prime 60
6   fill!putty 0, sand 5 | fill!putty 0, sand 25
7   fill!CA 0, sand 40 | fill!CA 0, sand 2
8   prime+shallow lines 5 | scribe 0, prime+shallow lines 5
9   prime 0, scribe 30 | scribe 0, prime 5
10  prime+foam 5 | seal foam 0, prime+foam 30
11  seal foam 0, prime 5 | seal foam 0, prime 25
12  fill with foam 0, trim 5 | fill with foam 0, trim 25
13  prime+glue faces 5 | mask faces 0, prime+glue faces 5
14  wire 0, prime 30 | drill 0, wire 1, prime 30
15  wire 0, close 30 | black inside 0, wire 30, close 31
16  black inside 0, silver inside 5 | black inside 0, silver inside 25
17  close 0, wire 30 | wire 0, close 30
18  wire 0, close 30 | wire 0, test lights 5, close 30
19  close 0, test again 60 | close 0, test again 24
20  wire 0, pigments 30 | wire 0, test on stand 29, pigments 30
21  black inside 0, close 5 | black inside 0, close 25
22  close 0, prime 5 | close 0, prime 25
23  base@z 0 | prime 0, base@z 25
24  prime 0, inspect 2 | prime 0, inspect 25
25  prime 0, base@z 30 | prime 0, inspect 25, base@z 30
26  prime 0, mask@z 30 | prime 0, mask@z 73
27  base@z 0, pre-shade@z!lacquer 30 | pre-shade@z!lacquer 0, base@z 30
28  pre-shade@z!alcohol acrylic 0, base@z 0.2 | pre-shade@z!alcohol acrylic 0, base@z 2
29  base@z!lacquer 0, base@z!lacquer 5 | base@z!lacquer 0, base@z!lacquer 0.5
30  base@z+vivid 5 | white@z 0, base@z+vivid 5
31  metal@z 30 | gloss black@z 0, metal@z 30
32  base@y 0, mask@z 12 | base@y 0, mask@z 25
33  stripe@z 5 | mask@z 0, stripe@z 5
33  stripe@z+freehand 0, base@y 5 | base@y 0, stripe@z+freehand 5
34  mask@z 0, stripe@z 5 | mask@z 0, edge seal@z 1, stripe@z 5
35  stripe@z 0, unmask@z 5 | stripe@z 0, unmask@z 1
36  stripe@z 0, unmask@z 0.15 | stripe@z 0, unmask@z 1
37  mask@z 0, stripe@z 90 | mask@z 0, stripe@z 20
38  mask@y 0, stripe@y=9 1, mask@z 30, stripe@z=80 31, unmask@z 32 | mask@y 0, stripe@y=80 1, mask@z 30, stripe@z=9 31
39  under-colour@z 0, seal coat@z 5 | under-colour@z 0, seal coat@z 25
40  under-colour@z 0, chipping medium@z 30 | under-colour@z 0, seal coat@z 25, chipping medium@z 50
41  chipping medium@z 0, base@z 0.3 | chipping medium@z 0, base@z 1
42  chipping medium@z 0, base@z 40 | chipping medium@z 0, base@z 5
43  chipping medium@z 0, base@z!enamel 5 | chipping medium@z 0, base@z!alcohol acrylic 5
44  base@z 0, chip@z 0.2 | base@z 0, chip@z 2
45  base@z 0, chip@z 9 | base@z 0, chip@z 2
46  gloss 0, chip@z 30 | chip@z 0, gloss 30
47  salt@z 0, rub@z 30 | salt@z 0, rub@z 20
48  liquid mask@z 0, rub@z 90 | liquid mask@z 0, rub@z 20
49  post-shade@z 0, stripe@z 30 | stripe@z 0, post-shade@z 30
50  detail 0, unmask@z 30 | unmask@z 0, detail 30
51  detail 0, gloss 5 | detail 0, gloss 25
52  base@z 0, gloss 5 | base@z 0, gloss 25
53  matte 0, decal 60 | gloss 0, decal 30
54  gloss 0, decal 5 | gloss 0, decal 25
55  decal 0, seal 5 | decal 0, seal 25
56  gloss 0, decal 30, wash 60 | gloss 0, decal 30, seal 60, wash 90
57  gloss 0, unmask@z 30 | unmask@z 0, gloss 30
58  base@z 0, wash 30 | gloss 0, wash 30
59  base@z!enamel 0, wash!enamel 90 | base@z!enamel 0, gloss 90, wash!enamel 120
60  gloss 0, wash 5 | gloss 0, wash 25
61  wash 0, wipe 3 | wash 0, wipe 0.5
62  wash 0, wipe 0.5, matte 30 | wash 0, wipe 0.5, matte 80
63  matte 0, stripe@z 30 | stripe@z 0, matte 30
64  base@z 0, gloss 30, dry-brush 60 | base@z 0, matte 30, dry-brush 60
65  base@z 0, gloss 30, streaks 60 | base@z 0, matte 30, streaks 60
66  glass@y 0, matte 30 | matte 0, glass@y 30
67  matte 0, shine@y 5 | matte 0, shine@y 25
68  chrome@y 0, compare 5, add fragile parts 6 | chrome@y 0, compare 5, add fragile parts 30
69  glass@y 0, seal 30 | seal 0, glass@y 30
69  prime 5, unmask glass@y 30 | mask glass@y 0, prime 15, unmask glass@y 60
69  mask glass@y 0, prime 1, unmask glass@y 60 | mask glass@y 0, prime 15, unmask glass@y 60
69  mask glass@y 0, sand 20 | sand 0, mask glass@y 20
69  mask glass@y 0, unmask glass@y 20, matte 30 | mask glass@y 0, matte 20, unmask glass@y 40
69  unmask glass@y 0 | mask glass@y 0, unmask glass@y 20
70  mask glass@y 0, unmask glass@y 20, add small parts 30 | mask glass@y 0, add small parts 20, unmask glass@y 50
70  glass@y 0, add fragile parts 30 | add fragile parts 0, glass@y 30
71  add small parts 0, decal 30 | decal 0, add small parts 30
72  add fragile parts 0, matte 30 | matte 0, add fragile parts 30
73  join 0, A:base@z 30 | A:base@z 0, join 30
74  base@z 0, A:join 5 | base@z 0, A:join 25
75  pigments 0, matte 30 | matte 0, pigments 30
75  sealed powders 0, matte 30, fix 60 | matte 0, sealed powders 30, fix 31
75  fix 5 | sealed powders 0, fix 5
75  sealed powders 0, glass@y 10, fix 30 | sealed powders 0, fix 10, glass@y 40
76  base@z 0, stripe@z!lacquer 30 | base@z!lacquer 0, stripe@z!lacquer 30
76  base@z!enamel+vinyl 0 | base@z!enamel 0
76  base@z+vinyl 0, stripe@z!lacquer+vinyl 30 | base@z+vinyl 0, stripe@z+vinyl 30
77  base@z!enamel 0, stripe@z 30 | base@z!enamel 0, stripe@z 80
78  metal@z!lacquer 0, base@y 0.2 | metal@z!lacquer 0, base@y 1
79  base@z 0, detail 0.3 | base@z 0, detail 2
80  compare 0, matte 30 | matte 0, compare 30
"""
LINES = [line.split(maxsplit=1) for line in CASES.strip().splitlines()]


def timeline(words: str) -> tuple[tuple[Step, ...], dict[str, tuple[datetime, datetime]]]:
    """'clean 0, prime 9' as steps and their begin and end; coats of one kind on one zone are counted."""
    coats: dict[str, int] = {}
    steps, spans = [], {}
    for word in words.split(", "):
        told, hour = word.strip().rsplit(" ", 1)
        told, *facts = told.split("+")
        told, *paint = told.split("!")
        told, *light = told.split("=")
        kind, *zone = told.split("@")
        assembly, kind = kind.split(":") if ":" in kind else ("H", kind)
        coats[told] = coats.get(told, 0) + 1
        entry = step_kinds()[kind]
        usual = entry.material or ("water acrylic" if entry.lays not in ("", "tape", "powder") else "")
        step = Step(
            f"{assembly}/{told}/{coats[told]}", kind, assembly, "".join(zone), told, 6, medium="".join(paint) or usual,
            colour=entry.colour or told, lightness=float(light[0]) if light else None, coat=coats[told],
            coats=coats[told], facts=tuple(facts),
        )  # fmt: skip
        begin = MIDNIGHT + timedelta(hours=float(hour))
        steps.append(step)
        spans[step.id] = (begin, begin + timedelta(minutes=6))
    return tuple(steps), spans


def broken(words: str) -> set[int]:
    steps, spans = timeline(words)
    found = limits(steps, USUAL_ROOM)
    wrong = {v.number for v in violations(steps, found)}
    return wrong | {one.number for one in untimely(steps, spans, found, USUAL_ROOM)}


@pytest.mark.parametrize(("number", "words"), LINES, ids=[line[0] for line in LINES])
def test_a_rule_is_broken_by_what_breaks_it_and_kept_by_what_keeps_it(number: str, words: str) -> None:
    wrong, right = words.split(" | ")
    assert int(number) in broken(wrong)
    assert int(number) not in broken(right)


def test_the_last_coat_cures_before_the_deadline() -> None:
    steps, spans = timeline("matte 0, streaks 30, compare 90")
    ends = spans[steps[1].id][1]
    tight = ends + timedelta(hours=60)
    (late,) = uncured(steps, spans, tight)
    assert (late.number, late.first) == (81, steps[1].id)
    assert late.hours == pytest.approx(60) and late.least == 72
    assert uncured(steps, spans, ends + timedelta(hours=73)) == ()


def test_every_rule_has_a_case_a_reason_and_kinds_that_exist() -> None:
    book = rule_book()
    rules = [(r.number, r.reason) for r in book.rule]
    rules += [(r.number, r.reason) for r in book.top] + [(r.number, r.reason) for r in book.special]
    numbers = {number for number, _ in rules}
    # The last rule looks at a deadline and is tested where that is.
    assert numbers == set(range(1, 82)) and {int(line[0]) for line in LINES} == numbers - {81}
    assert all(len(reason) > 20 and reason.endswith(".") for _, reason in rules)
    named = {kind for rule in book.rule for kind in (*rule.first, *rule.then)} | {k for r in book.top for k in r.then}
    assert named <= set(step_kinds())


def test_no_rule_goes_against_the_usual_stack() -> None:
    """So rules cannot contradict one another, and every build has an order."""
    rank = {kind: number for number, kind in enumerate(step_kinds())}
    backwards = [(r.number, a, b) for r in rule_book().rule for a in r.first for b in r.then if rank[a] >= rank[b]]
    assert backwards == []
