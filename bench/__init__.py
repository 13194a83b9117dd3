"""Speed and memory as ratios measured in one run: `make demo` in one shell, `make bench` in another."""
