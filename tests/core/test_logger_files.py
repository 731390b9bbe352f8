"""CSV files of loggers as loggers write them: recognized, read whole, each row that is left out named by its line."""

import io
from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_copper.core.errors import BadInput
from zesty_copper.core.load_test.trace import MOST_SAMPLES, Channel, trace_of
from zesty_copper.files.logger.guess import guess_csv
from zesty_copper.files.logger.mapping import ColumnUse, CsvMapping, TimeFormat
from zesty_copper.files.logger.read import read_logger_csv
from zesty_copper.files.logger.write import csv_of

LANES = ("L1", "L2", "L3", "N", "G")

# Each as one logger or another writes it: its text, what each column is, and the seconds and numbers in it.
AS_WRITTEN: dict[str, tuple[str, list[tuple[str, ...]], list[float], list[list[float]]]] = {
    "ISO, header with units": (
        "Timestamp,L1-L2 (V),L1 (A)\n2026-07-14T09:00:00Z,240.1,0.0\n2026-07-14T09:00:01.5Z,236.4,18.2\n"
        "2026-07-14T09:00:03Z,236.2,18.1\n",
        [("volts", "L1", "L2"), ("amps", "L1")],
        [0, 1.5, 3],
        [[240.1, 236.4, 236.2], [0, 18.2, 18.1]],
    ),
    "month first, afternoon, several head lines": (
        "Logger export\nSerial,,\n\nTime,Volts,Current\n7/14/2026 12:59:59 PM,240,1\n7/14/2026 1:00:01 PM,239,2\n"
        "7/14/2026 1:00:02 PM,238,3\n",
        [("volts", "L1", "L2"), ("amps", "L1")],
        [0, 2, 3],
        [[240, 239, 238], [1, 2, 3]],
    ),
    "day first, semicolons, decimal commas": (
        "Zeit;U12 [V];I1 [A]\n14.07.2026 09:00:00;240,1;0,5\n14.07.2026 09:00:02;239,9;18,25\n"
        "14.07.2026 09:00:04;239,5;18,5\n",
        [("volts", "L1", "L2"), ("amps", "L1")],
        [0, 2, 4],
        [[240.1, 239.9, 239.5], [0.5, 18.25, 18.5]],
    ),
    "day and time apart, over midnight": (
        "Date,Time,L1 N volts,mA\n2026-07-14,23:59:59,120,500\n2026-07-15,00:00:01,121,OL\n"
        "2026-07-15,00:00:03,119,700\n",
        [("volts", "L1", "N")],
        [0, 2, 4],
        [[120, 121, 119]],
    ),
    "a clock alone, over midnight, amps in mA": (
        "clock\tcurrent L2 (mA)\n23:59:58.5\t500\n00:00:00.5\t1500\n00:00:02\t2500\n",
        [("amps", "L2")],
        [0, 2, 3.5],
        [[0.5, 1.5, 2.5]],
    ),
    "milliseconds, three legs": (
        "Time (ms),V L1-L2,V L2-L3,V L3-L1,A1,A2,A3\n0,208,207,209,20,21,22\n250,208,207,209,20,21,22\n"
        "500,208,206,209,20,21,22\n",
        [("volts", "L1", "L2"), ("volts", "L2", "L3"), ("volts", "L3", "L1"), ("amps", "L1"), ("amps", "L2")],
        [0, 0.25, 0.5],
        [[208] * 3, [207, 207, 206], [209] * 3, [20] * 3, [21] * 3],
    ),
    "no times at all": (
        "volts,amps\n240,1\n239,2\n238,3\n237,4\n",
        [("volts", "L1", "L2"), ("amps", "L1")],
        [0, 1, 2, 3],
        [[240, 239, 238, 237], [1, 2, 3, 4]],
    ),
}


def read(text: str | bytes, mapping: CsvMapping) -> tuple[np.ndarray, np.ndarray, list[int]]:
    data = text if isinstance(text, bytes) else text.encode()
    trace, rows = read_logger_csv(io.BytesIO(data), mapping)
    assert rows.rows == len(trace.seconds)
    return trace.seconds, trace.values, [bad_row.line for bad_row in rows.bad]


@pytest.mark.parametrize("name", AS_WRITTEN)
def test_a_file_is_recognized_and_read_as_it_is_written(name: str) -> None:
    text, columns, seconds, values = AS_WRITTEN[name]
    guess = guess_csv(text, LANES)
    told = [(column.channel.kind, *column.channel.lanes) for column in guess.mapping.columns]
    assert told[: len(columns)] == columns
    for data in (text, text.encode("utf-8-sig"), text.replace("\n", "\r\n"), text.encode("utf-16")):
        times, numbers, bad = read(data, guess.mapping)
        assert bad == []
        assert times == pytest.approx(seconds)
        assert numbers[: len(values)] == pytest.approx(np.array(values))


def mapping(*columns: int) -> CsvMapping:
    channels = [Channel(kind="volts", lanes=("L1", "L2")), Channel(kind="amps", lanes=("L1",))]
    uses = [ColumnUse(column=one, channel=channels[i]) for i, one in enumerate(columns)]
    return CsvMapping(columns=tuple(uses))


def test_rows_that_cannot_be_read_are_named_by_their_lines() -> None:
    rows = [
        "s,v,a",
        "0,240,1",
        "1,=1+1,2",
        "2,239",
        "x,238,3",
        "2,238,OL",
        "1.5,240,4",
        "",
        "3,240,5",
        "4,,6",
        '5,"2',
        '40",7',
    ]
    seconds, values, bad = read("\n".join(rows), mapping(1, 2))
    # Line 3 holds a formula, 4 is short, 5 has no time, 7 goes back in time; a number over two lines is none.
    assert bad == [3, 4, 5, 7, 12]
    assert seconds == pytest.approx([0, 2, 3, 4])
    assert np.isnan(values[1, 1])
    assert np.isnan(values[0, 3])
    read_csv = read_logger_csv(io.BytesIO("\n".join(rows).encode()), mapping(1, 2))[1]
    assert "“=1+1” in column 2 is no number" in read_csv.bad[0].why
    assert "too few columns" in read_csv.bad[1].why
    assert "does not come after" in read_csv.bad[3].why


HOSTILE = {
    "nothing": b"",
    "a picture": bytes(range(256)) * 40,
    "one line without an end": b"0," + b"9" * 400_000,
    "an open quote": b's,v,a\n0,240,1\n1,"' + b"x" * 300_000,
    "only words": b"name,site\nMaud,Pier Three\nInes,Quay\n",
    "nul bytes alone": b"\x00" * 5000,
}


@pytest.mark.parametrize("name", HOSTILE)
def test_what_is_no_log_is_refused_with_a_sentence(name: str) -> None:
    with pytest.raises(BadInput) as told:
        read_logger_csv(io.BytesIO(HOSTILE[name]), mapping(1, 2))
    assert len(told.value.message) < 300
    with pytest.raises(BadInput):
        _read_as_guessed(HOSTILE[name])


def _read_as_guessed(data: bytes) -> None:
    guess = guess_csv(data[:2000].decode("latin-1"), LANES)
    read_logger_csv(io.BytesIO(data), guess.mapping)


def test_more_rows_than_a_trace_holds_are_refused() -> None:
    rows = b"0\n1\n" + b"\n".join(b"%d" % i for i in range(2, MOST_SAMPLES + 1))
    few = CsvMapping(first_row=0, time_format=TimeFormat.NONE, time_column=None, columns=mapping(0).columns)
    with pytest.raises(BadInput, match="more than 1,000,000 rows"):
        read_logger_csv(io.BytesIO(rows), few)


@given(
    st.lists(st.floats(0, 900, width=32), min_size=3, max_size=60),
    st.floats(0.001, 100),
    st.sampled_from([[], [1], [0, 2]]),
)
def test_what_is_written_is_read_again(numbers: Sequence[float], step: float, lost: list[int]) -> None:
    seconds = np.round(np.arange(len(numbers)) * max(step, 0.001), 3)
    values = np.array([numbers, numbers[::-1]])
    values[0, lost] = np.nan
    channels = (Channel(kind="volts", lanes=("L1", "L2")), Channel(kind="amps", lanes=("L2",)))
    text = "".join(csv_of(trace_of(channels, seconds, values)))
    guess = guess_csv(text, LANES)
    assert tuple(column.channel for column in guess.mapping.columns) == channels or lost
    used = CsvMapping(columns=tuple(ColumnUse(column=i + 1, channel=one) for i, one in enumerate(channels)))
    times, read_again, bad = read(text, used)
    assert bad == []
    assert times == pytest.approx(seconds, abs=1e-4)
    np.testing.assert_allclose(read_again, values, rtol=1e-5, atol=1e-30)
