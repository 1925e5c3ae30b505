"""Benchmarks: each prints ours, its rivals and the ratio, measured in the same run."""
