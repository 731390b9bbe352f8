import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import { tourCall } from '../../api/queries'
import { SearchField } from '../../shared/fields'
import { FrameTitle } from '../../shared/FrameTitle'
import { GLOSSARY, PHRASES, SHORTCUTS } from './glossary'

/** How it works in two minutes, the words it uses, and the keys. */
export default function HelpPage() {
  const [search, setSearch] = useState('')
  const { data: call } = useQuery(tourCall)
  const words = search.trim().toLowerCase()
  const found = GLOSSARY.filter(([term, says]) => `${term} ${says}`.toLowerCase().includes(words))
  return (
    <div className="page">
      <FrameTitle title="Help" />
      <section aria-labelledby="how">
        <h2 id="how">How it goes</h2>
        <ol className="how">
          <li>New call: touch what is wrong, then the equipment. It opens with the first test set up.</li>
          <li>Read what the card asks, type the numbers, record. The next test sets itself up.</li>
          <li>What you see counts too: answer a look on its card, or choose Look and touch the part.</li>
          <li>A red card stops the work: do what it says first.</li>
          <li>When a place is found, Repair says what to do about it, and how it goes back on. Ratings show what code and nameplate ask.</li>
          <li>Prove asks for numbers under load and judges each; a load test over time gives most of them. What cannot be proven is left with its reason.</li>
          <li>Hand over makes the sheets, keeps parts, photos and what was declined. What follows stands under Calls, Due.</li>
        </ol>
        {call ? (
          <Link to={`/calls/${call.id}?tour`} className="accent-button">
            Show me, in two minutes
          </Link>
        ) : null}
      </section>
      <section aria-labelledby="line">
        <h2 id="line">Said in one line</h2>
        <ul className="phrases">
          {PHRASES.map((one) => (
            <li key={one}>
              <code className="num">{one}</code>
            </li>
          ))}
        </ul>
      </section>
      <section aria-labelledby="keys">
        <h2 id="keys">Keys</h2>
        <table className="plain-table">
          <tbody>
            {SHORTCUTS.map(([key, does]) => (
              <tr key={key}>
                <th scope="row">
                  <kbd>{key}</kbd>
                </th>
                <td>{does}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <section aria-labelledby="words">
        <h2 id="words">Words</h2>
        <SearchField label="Look for a word" value={search} set={setSearch} placeholder="LoZ, backfeed, line side …" />
        <dl className="glossary">
          {found.map(([term, says]) => (
            <div key={term}>
              <dt>{term}</dt>
              <dd>{says}</dd>
            </div>
          ))}
        </dl>
        {found.length === 0 ? <p className="page-state">No such word here: ask your lead.</p> : null}
      </section>
    </div>
  )
}
