"""Moving an application piece by piece: its routes, what they drag along, slices, rules of a gateway, and how alike the answers are."""
