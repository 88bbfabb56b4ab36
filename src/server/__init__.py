"""Django: the guard of the door, the API, services and selectors, models."""
