import { createContext, useContext } from 'react'

import type { Person } from '../api/schema.gen'

export const ROLES: Record<NonNullable<Person['role']>, string> = {
  technician: 'Technician',
  lead: 'Lead',
  electrician: 'Electrician',
  read_only: 'Read only',
}

export const PersonContext = createContext<Person | null>(null)

/** Who is signed in; pages are only shown to somebody. */
export function usePerson(): Person {
  const person = useContext(PersonContext)
  if (!person) throw new Error('a page outside the door')
  return person
}

export const opensCalls = (person: Person) => person.role === 'lead' || person.role === 'technician'
export const letsPanelsBeOpened = (person: Person) => person.role === 'lead' || Boolean(person.may_open_panels)
