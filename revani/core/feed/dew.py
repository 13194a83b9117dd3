"""Dew: when a lens that is colder than the air's dew point is wet."""

from math import log

# Magnus formula over water, coefficients of the WMO Guide to Instruments and Methods of Observation (memory).
_A, _B_C = 17.62, 243.12


def dew_point_c(temperature_c: float, humidity_percent: float) -> float:
    """The temperature at which the air's own moisture falls out, °C."""
    part = log(humidity_percent / 100) + _A * temperature_c / (_B_C + temperature_c)
    return _B_C * part / (_A - part)
