"""The store: limits, instruments, tooling, the workshop's own figures."""
