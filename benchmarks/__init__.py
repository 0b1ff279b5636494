"""Benchmarks: they print ratios against a bare loop over the same library, and assert nothing."""
