/** What is read by something beside two probes, by its kind of place. Generated: do not edit. */
export const KINDS = {
  "around": {
    "unit": "A",
    "label": "A",
    "says": "Amps, clamp around one conductor",
    "picks": "jaws",
    "touch": "Clamp on",
    "missing": "Touch the wire to clamp"
  },
  "turning": {
    "unit": "seq",
    "label": "1-2-3",
    "says": "Phase sequence, clips on three legs",
    "picks": "legs",
    "touch": "Phase sequence at",
    "missing": "Touch a row with three legs"
  },
  "watching": {
    "unit": "run",
    "label": "Runs?",
    "says": "Watch and hear a load or a contactor",
    "picks": "part",
    "touch": "Watch and hear",
    "missing": "Touch a load or a contactor"
  },
  "near": {
    "unit": "beep",
    "label": "Tester",
    "says": "Non-contact tester",
    "picks": "point",
    "touch": "Tester on",
    "missing": "Touch the conductor it is held to"
  },
  "warmth": {
    "unit": "degF",
    "label": "°F",
    "says": "Temperature compared with the other legs, infrared",
    "picks": "pole",
    "touch": "Temperature of",
    "missing": "Touch the joint or device you aim at"
  }
} as const

/** How each unit is said, and the values of what is no number. */
export const UNITS = {
  "V": {
    "sign": "V~",
    "after": "V",
    "asks": "",
    "values": []
  },
  "A": {
    "sign": "A~",
    "after": "A",
    "asks": "",
    "values": []
  },
  "ohm": {
    "sign": "Ω",
    "after": "Ω",
    "asks": "",
    "values": []
  },
  "seq": {
    "sign": "",
    "after": "",
    "asks": "Phase sequence shown",
    "values": [
      {
        "value": 1,
        "words": "1-2-3"
      },
      {
        "value": -1,
        "words": "3-2-1"
      },
      {
        "value": 0,
        "words": "no turning"
      }
    ]
  },
  "run": {
    "sign": "",
    "after": "",
    "asks": "What is seen and heard",
    "values": [
      {
        "value": 0,
        "words": "still or out"
      },
      {
        "value": 1,
        "words": "running or in"
      },
      {
        "value": 2,
        "words": "hums or chatters"
      }
    ]
  },
  "beep": {
    "sign": "",
    "after": "",
    "asks": "What the tester says",
    "values": [
      {
        "value": 1,
        "words": "beeps"
      },
      {
        "value": 0,
        "words": "silent"
      }
    ]
  },
  "degF": {
    "sign": "°F",
    "after": "°F over",
    "asks": "",
    "values": []
  }
} as const

/** Where a meter shows OL [ohm]. */
export const OL_OHM = {
  "ohm": 40000000.0,
  "insulation": 200000000.0
} as const

