import { useEffect, useRef } from 'react'

import type { NextTest } from '../../api/schema.gen'
import { signOf } from '../../entities/reading/words'
import { modeOf, type Setup, type SetupAction, textOf, unitOfMode, valueIn, valuesOf } from '../../entities/strip/setup'
import { WordChoice } from './WordChoice'

type Props = { setup: Setup; test: NextTest | null; dispatch: (action: SetupAction) => void }

/** What is said of all readings of a card, and what tells each from the others: “at the whip”, and “L1 to L2”. */
export function labelsOf(words: readonly string[]): { common: string; each: string[] } {
  const tails = words.map((one) => one.slice(one.indexOf(' at ') + 1))
  const [first = ''] = tails
  if (words.length < 2 || !first.startsWith('at ') || tails.some((one) => one !== first)) return { common: '', each: [...words] }
  return { common: first, each: words.map((one) => one.slice(0, one.indexOf(' at '))) }
}

/** The numbers of a card, or the one of what a hand set up: a field for each, all of them recorded in one go. */
export function Numbers({ setup, test, dispatch }: Props) {
  const inputs = useRef<(HTMLInputElement | null)[]>([])
  const asked = setup.asked
  const { each } = labelsOf(test?.words ?? [])
  // Only what is set up anew takes the focus: a hand that goes elsewhere is left alone.
  useEffect(() => {
    if (!asked.length) return
    inputs.current[setup.at]?.focus({ preventScroll: true })
  }, [asked, setup.at])
  if (asked.length < 2) return <OneNumber setup={setup} dispatch={dispatch} focus={(one) => (inputs.current[0] = one)} />
  return (
    <div className="numbers">
      {asked.map((measurement, i) => {
        const unit = unitOfMode(modeOf(measurement))
        const label = each[i] ?? ''
        const text = setup.texts[i] ?? ''
        if (unit !== '' && valuesOf(unit).length)
          return (
            <div key={JSON.stringify(measurement)} className="numbers-words">
              <span>{label}</span>
              <WordChoice
                unit={unit}
                chosen={text}
                choose={(value) => {
                  dispatch({ do: 'go', at: i })
                  dispatch({ do: 'choose', value })
                }}
              />
            </div>
          )
        return (
          <label key={JSON.stringify(measurement)} className={`number-field ${setup.at === i ? 'is-here' : ''}`}>
            <span>{label}</span>
            <span className="number-box">
              <input
                ref={(one) => {
                  inputs.current[i] = one
                }}
                inputMode="none"
                autoComplete="off"
                aria-invalid={valueIn(modeOf(measurement), text).why !== ''}
                className="num"
                placeholder="0.0"
                value={text}
                onFocus={() => (setup.at === i ? undefined : dispatch({ do: 'go', at: i }))}
                onKeyDown={(event) => {
                  // Enter goes on to the next empty field; after the last of them it records.
                  if (event.key === 'Enter' && event.ctrlKey) return event.currentTarget.form?.requestSubmit()
                  const next = setup.texts.findIndex((one, k) => k !== i && one === '')
                  if (event.key === 'Enter' && text !== '' && next >= 0) {
                    event.preventDefault()
                    dispatch({ do: 'go', at: next })
                  }
                }}
                onChange={(event) => dispatch({ do: 'type', text: event.target.value })}
              />
              <span className="num unit">{signOf(unit)}</span>
            </span>
          </label>
        )
      })}
    </div>
  )
}

function OneNumber({ setup, dispatch, focus }: { setup: Setup; dispatch: Props['dispatch']; focus: (one: HTMLInputElement | null) => void }) {
  const unit = unitOfMode(setup.mode)
  const text = textOf(setup)
  if (unit !== '' && valuesOf(unit).length) return <WordChoice unit={unit} chosen={text} choose={(value) => dispatch({ do: 'choose', value })} />
  return (
    <label className="number-box">
      <input
        ref={focus}
        inputMode="none"
        autoComplete="off"
        aria-label={`Number the meter shows, ${unit}`}
        aria-invalid={valueIn(setup.mode, text).why !== ''}
        placeholder="0.0"
        className="num"
        value={text}
        onChange={(event) => dispatch({ do: 'type', text: event.target.value })}
      />
      <span className="num unit">{signOf(unit)}</span>
    </label>
  )
}
