"""What is marked on plates: what loads draw, what control transformers give, what equipment asks of its circuit."""

from pydantic import Field

from zesty_copper.core.frozen import Frozen

__all__ = ["LoadData", "Nameplate", "Winding"]


class LoadData(Frozen):
    """What a shunt part draws at its rated voltage; nameplate voltage, not the supply's nominal."""

    rated_volts: float = Field(ge=1, le=1000)
    rated_amps: float = Field(ge=0.001, le=1000, description="per conductor")
    power_factor: float = Field(default=1.0, ge=0.05, le=1, description="lagging")
    locked_amps: float | None = Field(default=None, ge=0.01, le=10000, description="of a motor, held still")

    @property
    def impedance_ohm(self) -> complex:
        """Impedance that draws the rated current at the rated voltage [ohm]."""
        magnitude = self.rated_volts / self.rated_amps
        return magnitude * complex(self.power_factor, (1 - self.power_factor**2) ** 0.5)


class Nameplate(Frozen):
    """What the equipment's nameplate asks of a circuit that feeds it."""

    mca_amps: float = Field(ge=0.1, le=2000, description="minimum circuit ampacity")
    mocp_amps: float = Field(ge=0.1, le=2000, description="maximum overcurrent protection")


class Winding(Frozen):
    """A control transformer's plate."""

    primary_volts: float = Field(ge=1, le=1000, description="of the tap in use")
    secondary_volts: float = Field(ge=1, le=600)
    volt_amps: float = Field(ge=0.1, le=5000)
    secondary_grounded: bool | None = Field(
        default=None, description="whether its second secondary conductor is bonded to the cabinet; none: nobody looked"
    )
    other_tap_volts: float | None = Field(default=None, ge=1, le=1000, description="a primary tap not in use")
