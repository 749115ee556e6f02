"""What the desk at the quay answers: sailings, fares, tickets, accounts and the office."""
