"""What no plan of a work can end before: by the hands there are, and by its longest chain through their hours; and what
must move after a slip.
"""

from __future__ import annotations

from tailor.core.bench.work import FAR, Person, Plan, Step, Work, merged


def bound(work: Work) -> int:
    """Minutes before which the last step of all cannot be done, whatever the order."""
    return max(_by_chain(work), _by_hands(work))


def _by_hands(work: Work) -> int:
    """All minutes of hands, and of each family as many set-ups as its work has to be spread over, in the hours of all
    hands.
    """
    ready = {family for _, family in work.ready}
    longest = max(b - a for person in work.people for a, b in person.windows)
    of = dict[str, int]()
    for step in work.steps:
        of[step.family] = of.get(step.family, 0) + step.minutes
    left = sum(of.values())
    for family, minutes in of.items():
        if set_up := work.families.get(family, 0):
            left += set_up * (-(-minutes // (longest - set_up)) - (family in ready))
    turns = sorted(
        [(a, 1) for person in work.people for a, _ in person.windows]
        + [(b, -1) for person in work.people for _, b in person.windows]
    )
    at = now = 0
    for when, by in turns:
        if now and left <= now * (when - at):
            return at - (-left // now)
        left -= now * (when - at)
        at, now = when, now + by
    return FAR


def _by_chain(work: Work) -> int:
    """The soonest that the last step can be done if hands were free for every step at once."""
    before: dict[str, list[tuple[str, int]]] = {step.id: [] for step in work.steps}
    for wait in work.waits:
        before[wait.to].append((wait.from_, wait.least))
    ends = dict[str, int]()

    def end(id_: str) -> int:
        todo = [id_]
        while todo:
            step = work.step[todo[-1]]
            if missing := [a for a, _ in before[step.id] if a not in ends]:
                todo += missing
                continue
            low = max((ends[a] + least for a, least in before[step.id]), default=-FAR)
            ends[step.id] = min(_soonest(work, person, step, max(low, step.after)) for person in work.people)
            todo.pop()
        return ends[id_]

    return max((end(step.id) for step in work.steps), default=0)


def forced(work: Work, plan: Plan) -> int:
    """How many steps of a plan cannot begin when they did, where none begins sooner: by what they wait for, if hands
    were free for every step at once.
    """
    ends, low = dict[str, int](), {step.id: plan.steps[step.id][0].start for step in work.steps}
    left = {step.id: sum(wait.to == step.id for wait in work.waits) for step in work.steps}
    ready, late = [id_ for id_, count in left.items() if not count], 0
    while ready:
        step = work.step[ready.pop()]
        late += low[step.id] > plan.steps[step.id][0].start
        ends[step.id] = min(_soonest(work, person, step, low[step.id]) for person in work.people)
        for wait in work.waits:
            if wait.from_ == step.id:
                low[wait.to] = max(low[wait.to], ends[step.id] + wait.least)
                left[wait.to] -= 1
                ready += [wait.to] * (left[wait.to] == 0)
    return late


def _soonest(work: Work, person: Person, step: Step, low: int) -> int:
    """When one person could have a step done that begins no sooner than so, with nothing else to do."""
    left = step.minutes
    for n, (a, b) in enumerate(merged(person.windows)):
        set_up = work.families.get(step.family, 0)
        if n == 0 and (person.id, step.family) in work.ready:
            set_up = 0
        begin = max(low, a + set_up)
        if begin >= b:
            continue
        if not step.piece:
            if begin + step.minutes <= b:
                return begin + step.minutes
            continue
        if begin + left <= b:
            return begin + left
        left -= b - begin
    return FAR
