"""Where the exact odds and the trials meet: exact if it can be, else simulated; a result says which."""

from golddice.core.forecast.ahead import Ahead
from golddice.core.forecast.later import Estimate, Later, Wait
from golddice.core.forecast.value import Forecast, value_forecast

__all__ = ["Ahead", "Estimate", "Forecast", "Later", "Wait", "value_forecast"]
