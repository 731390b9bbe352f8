import { ChoiceField, NumberField, YesNoField } from '../../shared/fields'
import { changed, rowKey } from '../../shared/rows'
import { type Sheet } from './sheet'

const SORTS = [
  ['breaker', 'breaker'],
  ['fuse', 'fuse'],
] as const

/** Breakers and fuses, disconnects, contactors and control transformers, with what is marked on each. */
export function DevicesForm({ draft, edit }: { draft: Sheet; edit: (next: Sheet) => void }) {
  return (
    <>
      {draft.devices.map((device, i) => {
        const set = (more: Partial<typeof device>) => edit({ ...draft, devices: changed(draft.devices, i, more) })
        return (
          <fieldset key={rowKey(device)}>
            <legend>{device.name}</legend>
            <div className="part-fields">
              <NumberField label="Rating" unit="A" value={device.amps} set={(amps) => amps !== null && set({ amps })} />
              <ChoiceField label="It is a" value={device.sort} options={SORTS} set={(sort) => sort && set({ sort })} />
              {device.sort === 'fuse' ? (
                <YesNoField label="Time-delay" value={device.time_delay} set={(time_delay) => set({ time_delay })} />
              ) : (
                <>
                  <YesNoField label="Marked for A/C" value={device.for_ac} set={(for_ac) => set({ for_ac })} />
                  <YesNoField label="Listed for 100 %" value={device.full_rated} set={(yes) => set({ full_rated: yes ?? false })} />
                </>
              )}
              <NumberField label="Interrupting rating" unit="kA" value={device.interrupting_ka} set={(interrupting_ka) => set({ interrupting_ka })} />
            </div>
          </fieldset>
        )
      })}
      <div className="part-fields">
        <NumberField label="Fault current available" unit="kA" value={draft.available_ka} set={(available_ka) => edit({ ...draft, available_ka })} />
      </div>
      {draft.disconnects.map((one, i) => {
        const set = (more: Partial<typeof one>) => edit({ ...draft, disconnects: changed(draft.disconnects, i, more) })
        return (
          <fieldset key={rowKey(one)}>
            <legend>{one.name}</legend>
            <div className="part-fields">
              <NumberField label="Rating" unit="A" value={one.amps} set={(amps) => set({ amps })} />
              <NumberField label="Locked-rotor rating" unit="A" value={one.locked_amps} set={(locked_amps) => set({ locked_amps })} />
              <YesNoField label="In sight" value={one.in_sight} set={(in_sight) => set({ in_sight })} />
              <YesNoField label="Can be locked open" value={one.lockable} set={(lockable) => set({ lockable })} />
            </div>
          </fieldset>
        )
      })}
      {draft.contactors.map((one, i) => {
        const set = (more: Partial<typeof one>) => edit({ ...draft, contactors: changed(draft.contactors, i, more) })
        return (
          <fieldset key={rowKey(one)}>
            <legend>{one.name}</legend>
            <div className="part-fields">
              <NumberField label="Full-load" unit="A" value={one.motor_amps} set={(motor_amps) => set({ motor_amps })} />
              <NumberField label="Locked-rotor" unit="A" value={one.locked_amps} set={(locked_amps) => set({ locked_amps })} />
              <NumberField label="Resistive" unit="A" value={one.heat_amps} set={(heat_amps) => set({ heat_amps })} />
              <NumberField label="Coil" unit="V" value={one.coil_volts} set={(coil_volts) => set({ coil_volts })} />
            </div>
          </fieldset>
        )
      })}
      {draft.transformers.map((one, i) => {
        const set = (more: Partial<typeof one>) => edit({ ...draft, transformers: changed(draft.transformers, i, more) })
        return (
          <fieldset key={rowKey(one)}>
            <legend>{one.name}</legend>
            <div className="part-fields">
              <NumberField label="Its plate" unit="VA" value={one.volt_amps} set={(volt_amps) => volt_amps !== null && set({ volt_amps })} />
              <NumberField label="Its primary" unit="V" value={one.primary_volts} set={(primary_volts) => set({ primary_volts })} />
              <NumberField label="Fuse ahead of it" unit="A" value={one.primary_device_amps} set={(primary_device_amps) => set({ primary_device_amps })} />
              <YesNoField label="Marked Class 2" value={one.class_2} set={(class_2) => set({ class_2 })} />
            </div>
          </fieldset>
        )
      })}
    </>
  )
}
