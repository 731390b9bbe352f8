"""Every finding on any sheet can be done again from what it prints."""

from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core.sums import judged_again, recomputed

from zesty_copper.core.circuit.parts.conductor import Metal
from zesty_copper.core.ratings.inputs.sheet import (
    ContactorPlate,
    Device,
    Disconnector,
    Edition,
    Insulation,
    Measured,
    Motor,
    Plate,
    Raceway,
    Run,
    Sheet,
    Use,
)
from zesty_copper.core.ratings.rules.check import check
from zesty_copper.core.ratings.sizing.sizes import what_it_may_carry, what_matches, what_should_be_there

GAUGES = st.sampled_from([18, 16, 14, 12, 10, 8, 6, 4, 3, 2, 1, 0, -1, -2, -3])
SHEETS = st.builds(
    Sheet,
    edition=st.sampled_from(Edition),
    nominal_volts=st.sampled_from([120, 208, 240, 480]),
    legs=st.integers(1, 3),
    three_phase=st.booleans(),
    plate=st.builds(
        Plate,
        use=st.sampled_from(Use),
        least_volts=st.sampled_from([None, 208, 230]),
        mca_amps=st.none() | st.floats(5, 150),
        mocp_amps=st.none() | st.floats(15, 200),
        motors=st.lists(
            st.builds(Motor, name=st.just("m"), amps=st.floats(0.5, 80), locked_amps=st.none() | st.floats(5, 500)),
            max_size=3,
        ).map(tuple),
        heat_amps=st.none() | st.floats(1, 100),
        heat_kw=st.none() | st.floats(1, 30),
    ),
    runs=st.lists(
        st.builds(
            Run,
            name=st.just("run"),
            size_awg=GAUGES,
            metal=st.sampled_from(Metal),
            length_m=st.none() | st.floats(1, 200),
            insulation=st.none() | st.sampled_from(Insulation),
            raceway=st.none() | st.sampled_from(Raceway),
            carrying=st.none() | st.integers(1, 45),
            ambient_c=st.none() | st.floats(-20, 85),
            above_roof_mm=st.none() | st.floats(0, 100),
            terminals_c=st.sampled_from([None, 60, 75, 90]),
            grounding_awg=st.none() | GAUGES,
        ),
        max_size=2,
    ).map(tuple),
    devices=st.lists(st.builds(Device, name=st.just("device"), amps=st.floats(10, 200)), max_size=2).map(tuple),
    disconnects=st.lists(st.builds(Disconnector, amps=st.none() | st.floats(20, 200)), max_size=1).map(tuple),
    contactors=st.lists(
        st.builds(ContactorPlate, poles=st.none() | st.integers(1, 3), motor_amps=st.none() | st.floats(10, 90)),
        max_size=1,
    ).map(tuple),
    measured=st.builds(
        Measured,
        volts=st.sampled_from([(), (236.0,), (208.0, 203.5, 211.2)]),
        amps=st.sampled_from([(), (18.3, 17.9), (21.0, 19.4, 20.2)]),
        service_volts=st.sampled_from([(), (243.0,)]),
    ),
)


@settings(max_examples=150, deadline=None)
@given(SHEETS)
def test_every_finding_can_be_recomputed_from_what_it_prints(sheet: Sheet) -> None:
    for finding in check(sheet):
        judged_again(finding)
    for wanted in (*what_should_be_there(sheet), *what_it_may_carry(sheet), *what_matches(sheet)):
        assert wanted.answer
        if wanted.worked is not None:
            recomputed(wanted.worked)
