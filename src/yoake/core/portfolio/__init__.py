"""The portfolio in time: capacity, stages, waves, forecast, what is learnt, and who waits for whom."""
