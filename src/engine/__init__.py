"""The rules and the computation: frozen dataclasses outside, arrays and compiled kernels inside."""
