/** Words of the trade as they are used here, each in a sentence. */
export const GLOSSARY: readonly (readonly [string, string])[] = [
  ['Backfeed', 'A leg that is open upstream but still reads live, because a load or a transformer feeds it from the other leg.'],
  [
    'Bypass',
    'Wires joined around a failed disconnect. It does not disconnect any more: tags at both ends, a lock on the breaker, and a day on which somebody comes back.',
  ],
  ['Calling', 'The thermostat asks for heat or cooling, so the contactor should be in.'],
  ['Confidence', 'How sure the tool is that the fault is in the place it names, weighing every reading and look.'],
  ['Drop', 'Volts lost along a wire or across a closed device while current flows.'],
  ['Floating', 'A conductor that is connected to nothing firm: a meter shows ghost volts that LoZ pulls down.'],
  ['High-resistance connection', 'A joint that still carries current but loses volts and makes heat.'],
  ['Inrush', 'The high amps of a start, gone within a second or so. Amps that stay there are those of a rotor that does not turn.'],
  ['Line side, load side', 'Toward the source, and toward the equipment. On a contactor L1, L2, L3 are the line side, T1, T2, T3 the load side.'],
  ['LoZ', 'The meter’s low-impedance mode: it loads the circuit a little, so that ghost volts collapse.'],
  ['MCA, MOCP', 'On the nameplate: the least ampacity of the wires, and the largest breaker or fuse.'],
  ['Next test', 'The reading or look that tells most for the time it takes.'],
  [
    'Sag per ampere',
    'Volts lost at the unit for each ampere that comes on: ohms of everything ahead of it. Wire and good joints explain a little of it; a poor joint makes the rest.',
  ],
  ['Same leg', 'Both hots landed on one side of a split-phase supply: each reads 120 V to ground, 0 V to each other.'],
  [
    'Sequencer',
    'A relay that a small heater warms: its contact follows some tens of seconds late, on and off, so that banks of heat come one after the other.',
  ],
  ['Single-phasing', 'A three-phase motor left on two legs: it hums, draws too much and burns.'],
  ['State', 'Which switches were open and whether the unit was calling. Readings of two states are never compared without saying so.'],
  ['Stop card', 'Going on is dangerous to people or ruins equipment: what it says comes before any other test.'],
  ['Strip', 'The circuit drawn from the source down, a lane for each conductor, a dot for each point a probe can touch.'],
  ['Tandem breaker', 'Two breakers in one space of the panel. Both halves are on one leg: there are no 240 V between them.'],
  ['Temperature rise', 'Supply air less return air across the heat.'],
  ['Voltage unbalance', 'How far the worst of three leg-to-leg voltages is from their average, as a percentage of it.'],
]

/** Keys at a desk. None of the letters does anything while a field is being typed in. */
export const SHORTCUTS: readonly (readonly [string, string])[] = [
  ['Enter', 'Next field of the card; after the last one, record'],
  ['Ctrl + Enter', 'Record what is typed so far'],
  ['/', 'Go to the quick line'],
  ['n', 'Set up the next test'],
  ['Esc', 'Clear what is set up'],
  ['Ctrl + Z', 'Undo the last entry'],
  ['Tab', 'Complete the word on the quick line'],
  ['Arrows', 'Move among the points of the strip; Enter puts a probe there'],
]

/** What the quick line understands. */
export const PHRASES: readonly string[] = [
  'L1 to ground at the disconnect 120',
  'L1 L2 at contactor line 243.1',
  'T1-T2 0',
  'across fuse L2 118 V',
  '18.2 amps on L1 at the whip',
  'compressor running',
  'fuse L2 blown',
  'fuse clip load side L2 burnt',
  'line lug L1 to L2 241 V disconnect open',
]
