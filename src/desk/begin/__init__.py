"""A first case from three answers, and the layouts that people begin with."""
