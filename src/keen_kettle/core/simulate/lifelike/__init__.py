"""Lifelike films: a body of flesh before halls as they are, with plates, light and shadow; exact truth."""

from keen_kettle.core.simulate.lifelike.halls import HALLS, LIGHTS
from keen_kettle.core.simulate.lifelike.painter import PLATES, LifelikePainter, PlateLook, Wear

__all__ = ["HALLS", "LIGHTS", "PLATES", "LifelikePainter", "PlateLook", "Wear"]
