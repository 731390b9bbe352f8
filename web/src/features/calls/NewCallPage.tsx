import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Fragment, useDeferredValue, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'

import { answered, api, messageOf } from '../../api/client'
import { complaints, people, readyMade, site as siteQuery, sites } from '../../api/queries'
import type { Complaint, ReadyMade } from '../../api/schema.gen'
import { FrameTitle } from '../../shared/FrameTitle'
import { keepIn, useKept } from '../../shared/kept'
import { letsPanelsBeOpened, opensCalls, usePerson } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'
import { EquipmentPicture } from './EquipmentPicture'
import { type CallDraft, complaintOf, makeIds, newCallFrom, type On } from './newCall'

/** A new call in two touches: what is wrong, and on what. Everything else can be said later. */
export default function NewCallPage() {
  const told = useQuery(complaints)
  const circuits = useQuery(readyMade)
  const failed = told.error ?? circuits.error
  return (
    <div className="page">
      <FrameTitle title="New call" />
      {failed ? <Failed error={failed} retry={() => void Promise.all([told.refetch(), circuits.refetch()])} /> : null}
      {told.data && circuits.data ? <Choices known={told.data} circuits={circuits.data} /> : failed ? null : <Loading what="complaints and equipment" />}
    </div>
  )
}

type Place = { id: string; name: string }

function Choices({ known, circuits }: { known: Complaint[]; circuits: ReadyMade[] }) {
  const me = usePerson()
  const navigate = useNavigate()
  const client = useQueryClient()
  const [ids] = useState(makeIds)
  const [asked] = useSearchParams()
  const [draft, setDraft] = useKept<CallDraft>(`new call of ${me.id}`, { chosen: [], words: '', technicianId: me.id, panel: me.may_open_panels ?? false })
  const [where, setWhere] = useKept<Place | string>(`new call of ${me.id}, where`, '')
  const [jobFile, setJobFile] = useState<{ name: string; text: string } | null>(null)
  const [missing, setMissing] = useState(false)
  // From a site's own page the site is known.
  const from = useQuery({ ...siteQuery(asked.get('site') ?? ''), enabled: asked.has('site') })
  const place: Place | string = where === '' && from.data ? { id: from.data.id, name: from.data.name } : where
  const open = useMutation({
    mutationFn: (on: On) => {
      const call = newCallFrom(draft, on, known, ids, new Date())
      return jobFile ? answered(api.POST('/api/imported-calls', { body: { call, job: jobFile.text } })) : answered(api.POST('/api/calls', { body: call }))
    },
    onSuccess: (call) => {
      keepIn(`new call of ${me.id}`, null)
      keepIn(`new call of ${me.id}, where`, null)
      void client.invalidateQueries({ queryKey: ['calls'] })
      void client.invalidateQueries({ queryKey: ['sites'] })
      void navigate(`/calls/${call.id}`, { replace: true })
    },
  })
  const start = (on: On) => {
    if (complaintOf(draft) === '') {
      setMissing(true)
      window.scrollTo({ top: 0 })
    } else if (!open.isPending && !open.isSuccess) open.mutate(on)
  }
  const toggle = (words: string) => {
    setMissing(false)
    setDraft({ ...draft, chosen: draft.chosen.includes(words) ? draft.chosen.filter((one) => one !== words) : [...draft.chosen, words] })
  }
  const fresh = (one: ReadyMade): On => ({
    circuit: one.key,
    name: one.family_label,
    site: typeof place === 'string' ? { name: place.trim() || `Site not named yet, ${new Date().toLocaleDateString()}`, address: '' } : { id: place.id },
  })
  return (
    <>
      <section aria-labelledby="what-is-wrong">
        <h2 id="what-is-wrong">What is wrong?</h2>
        <div className="chips" role="group" aria-label="Complaint">
          {known.map(({ words }) => (
            <button key={words} type="button" className="chip" aria-pressed={draft.chosen.includes(words)} onClick={() => toggle(words)}>
              {words}
            </button>
          ))}
        </div>
        <label className="wide-field">
          <span className="visually-hidden">Complaint in other words</span>
          <input
            value={draft.words}
            maxLength={200}
            placeholder="Or in other words …"
            onChange={(event) => {
              setMissing(false)
              setDraft({ ...draft, words: event.target.value })
            }}
          />
        </label>
        {missing ? (
          <p className="problem" role="alert">
            Say what is wrong first: touch what you were told, or type it.
          </p>
        ) : null}
      </section>
      <Where place={place} choose={setWhere} start={start} busy={open.isPending} />
      {open.error ? (
        <p className="problem" role="alert">
          {messageOf(open.error, 'The call could not be opened: try again.')}
        </p>
      ) : null}
      <section aria-labelledby="on-what">
        <h2 id="on-what">{open.isPending ? 'Opening the call …' : typeof place === 'string' ? 'On what?' : `Other equipment at ${place.name}`}</h2>
        <ul className="pictures">
          {circuits.map((one) => (
            <li key={one.key}>
              <button type="button" className="picture-button" disabled={open.isPending} onClick={() => start(fresh(one))}>
                <EquipmentPicture family={one.family} />
                <span>{one.circuit.name}</span>
              </button>
            </li>
          ))}
        </ul>
      </section>
      <More draft={draft} set={setDraft} jobFile={jobFile} setJobFile={setJobFile} />
    </>
  )
}

/** Where it is: a site on file with its equipment, or any name; it can be named later. */
function Where({ place, choose, start, busy }: { place: Place | string; choose: (place: Place | string) => void; start: (on: On) => void; busy: boolean }) {
  const text = typeof place === 'string' ? place : ''
  const search = useDeferredValue(text.trim())
  const found = useQuery({ ...sites(search), placeholderData: keepPreviousData, enabled: search !== '' })
  const here = useQuery({ ...siteQuery(typeof place === 'string' ? '' : place.id), enabled: typeof place !== 'string' })
  const onFile = typeof place === 'string' ? (search ? (found.data?.sites ?? []) : []) : here.data ? [here.data] : []
  return (
    <section aria-labelledby="where">
      <h2 id="where">Where?</h2>
      {typeof place === 'string' ? (
        <label className="wide-field">
          <span className="visually-hidden">Site or customer</span>
          <input value={text} maxLength={80} placeholder="Customer or site; can be named later" autoComplete="off" onChange={(event) => choose(event.target.value)} />
        </label>
      ) : (
        <p className="chosen-site">
          <b>{place.name}</b>
          <button type="button" className="plain-button" onClick={() => choose('')}>
            Another site
          </button>
        </p>
      )}
      {typeof place !== 'string' || search || text.trim() ? (
        // One row of its own height, whatever is found: nothing below it moves from under a thumb.
        <div className="on-file" role="group" aria-label="On file">
          {onFile.length === 0 && !found.isFetching ? <span className="quiet">Not on file: it will be.</span> : null}
          {onFile.slice(0, 5).map((one) => (
            <Fragment key={one.id}>
              {typeof place === 'string' ? (
                <button type="button" className="plain-button" onClick={() => choose({ id: one.id, name: one.name })}>
                  {one.name}
                </button>
              ) : null}
              {one.equipment.map((item) => (
                <button key={item.id} type="button" className="accent-button" disabled={busy} onClick={() => start({ equipmentId: item.id })}>
                  {item.name}
                </button>
              ))}
            </Fragment>
          ))}
        </div>
      ) : null}
    </section>
  )
}

type MoreProps = { draft: CallDraft; set: (draft: CallDraft) => void; jobFile: { name: string; text: string } | null; setJobFile: (file: { name: string; text: string } | null) => void }

function More({ draft, set, jobFile, setJobFile }: MoreProps) {
  const me = usePerson()
  const everybody = useQuery({ ...people, enabled: me.role === 'lead' })
  const takers = everybody.data?.filter((one) => one.is_active !== false && opensCalls(one)) ?? []
  const mayOpen = letsPanelsBeOpened(me)
  return (
    <details className="standing">
      <summary>More: technician, panel, job file</summary>
      {me.role === 'lead' ? (
        <label className="wide-field">
          Technician
          <select value={draft.technicianId} onChange={(event) => set({ ...draft, technicianId: event.target.value, panel: takers.find((one) => one.id === event.target.value)?.may_open_panels ?? false })}>
            {(takers.length ? takers : [me]).map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </select>
        </label>
      ) : null}
      <label className="panel-choice">
        <input type="checkbox" checked={draft.panel} disabled={!mayOpen} onChange={(event) => set({ ...draft, panel: event.target.checked })} />
        Panel may be opened <span className="quiet">{mayOpen ? '(only if licensed for it)' : '(a lead grants panel work)'}</span>
      </label>
      <div className="job-pick">
        <label className="plain-button">
          {jobFile ? `Job file: ${jobFile.name}` : 'Start from a job file …'}
          <input
            type="file"
            accept=".json,application/json"
            className="visually-hidden"
            onChange={(event) => {
              const file = event.target.files?.[0]
              if (file) void file.text().then((text) => setJobFile({ name: file.name, text }))
            }}
          />
        </label>
        {jobFile ? (
          <button type="button" className="link-button" onClick={() => setJobFile(null)}>
            Leave it out
          </button>
        ) : null}
      </div>
    </details>
  )
}
