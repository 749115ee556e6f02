"""What a crossing costs."""

ADULT = {"harrow-isle": 12.35, "isle-harrow": 12.35, "harrow-skerry": 7.85}
CHILD = 0.5


def fare(start, end, adults=1, children=0):
    """The fare of a party, in pounds; half a penny is rounded down, as it always was."""
    each = ADULT.get("%s-%s" % (start, end), 20.0)
    whole = each * adults + int(each * CHILD * 100) / 100.0 * children
    return round(whole, 2)
