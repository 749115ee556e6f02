"""Who lies where: the shortest berth that fits, longest vessel first."""
from collections import Mapping, OrderedDict


def allocate(berths, vessels):
    if isinstance(berths, Mapping):
        berths = berths.items()
    free = sorted(berths, key=lambda berth: berth[1])
    plan = OrderedDict()
    for vessel, metres in sorted(vessels, key=lambda v: -v[1]):
        fitting = [berth for berth in free if berth[1] >= metres]
        if fitting:
            plan[vessel] = fitting[0][0]
            free.remove(fitting[0])
    return plan
