import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, Input, Upload } from 'antd'
import { Fragment, useDeferredValue, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'

import { answered, api, messageOf } from '../../api/client'
import { complaints, people, readyMade, site as siteQuery, sites } from '../../api/queries'
import type { Complaint, ReadyMade } from '../../api/schema.gen'
import { PickField } from '../../shared/fields'
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
        <Input
          aria-label="Complaint in other words"
          value={draft.words}
          maxLength={200}
          placeholder="Or in other words …"
          status={missing ? 'error' : ''}
          onChange={(event) => {
            setMissing(false)
            setDraft({ ...draft, words: event.target.value })
          }}
        />
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
        <Input
          aria-label="Site or customer"
          value={text}
          maxLength={80}
          placeholder="Customer or site; can be named later"
          autoComplete="off"
          onChange={(event) => choose(event.target.value)}
        />
      ) : (
        <p className="chosen-site">
          <b>{place.name}</b>
          <Button onClick={() => choose('')}>Another site</Button>
        </p>
      )}
      {typeof place !== 'string' || search || text.trim() ? (
        // One row of its own height, whatever is found: nothing below it moves from under a thumb.
        <div className="on-file" role="group" aria-label="On file">
          {onFile.length === 0 && !found.isFetching ? <span className="quiet">Not on file: it will be.</span> : null}
          {onFile.slice(0, 5).map((one) => (
            <Fragment key={one.id}>
              {typeof place === 'string' ? <Button onClick={() => choose({ id: one.id, name: one.name })}>{one.name}</Button> : null}
              {one.equipment.map((item) => (
                <Button key={item.id} type="primary" disabled={busy} onClick={() => start({ equipmentId: item.id })}>
                  {item.name}
                </Button>
              ))}
            </Fragment>
          ))}
        </div>
      ) : null}
    </section>
  )
}

type MoreProps = {
  draft: CallDraft
  set: (draft: CallDraft) => void
  jobFile: { name: string; text: string } | null
  setJobFile: (file: { name: string; text: string } | null) => void
}

function More({ draft, set, jobFile, setJobFile }: MoreProps) {
  const me = usePerson()
  const everybody = useQuery({ ...people, enabled: me.role === 'lead' })
  const takers = everybody.data?.filter((one) => one.is_active !== false && opensCalls(one)) ?? []
  const mayOpen = letsPanelsBeOpened(me)
  return (
    <details className="standing">
      <summary>More: technician, panel, job file</summary>
      {me.role === 'lead' ? (
        <PickField
          label="Technician"
          value={draft.technicianId}
          options={(takers.length ? takers : [me]).map((one) => [one.id, one.name] as const)}
          set={(technicianId) => set({ ...draft, technicianId, panel: takers.find((one) => one.id === technicianId)?.may_open_panels ?? false })}
        />
      ) : null}
      <Checkbox checked={draft.panel} disabled={!mayOpen} onChange={(event) => set({ ...draft, panel: event.target.checked })}>
        Panel may be opened <span className="quiet">{mayOpen ? '(only if licensed for it)' : '(a lead grants panel work)'}</span>
      </Checkbox>
      <div className="job-pick">
        <Upload
          accept=".json,application/json"
          maxCount={1}
          showUploadList={false}
          beforeUpload={(file) => {
            void file.text().then((text) => setJobFile({ name: file.name, text }))
            return false
          }}
        >
          <Button>{jobFile ? `Job file: ${jobFile.name}` : 'Start from a job file …'}</Button>
        </Upload>
        {jobFile ? (
          <Button type="link" onClick={() => setJobFile(null)}>
            Leave it out
          </Button>
        ) : null}
      </div>
    </details>
  )
}
