import type { Fate, Note, Operation, Reading, Retraction } from '@canter/core/trial'
import { v7 as uuidv7 } from 'uuid'

/** A name for this browser, so that a device with a wrong clock can be found. */
function device(): string {
  const kept = localStorage.getItem('canter.device')
  if (kept) return kept
  const made = `browser-${uuidv7().slice(-6)}`
  localStorage.setItem('canter.device', made)
  return made
}

function who(person: string) {
  return { id: uuidv7(), at: new Date().toISOString(), person, device: device() }
}

export function makeReading(
  person: string,
  of: Pick<Reading, 'unit' | 'trait' | 'visit' | 'sample' | 'observer' | 'value' | 'supersedes' | 'confirmed'>,
): Reading {
  return { type: 'reading', ...who(person), ...of }
}

export function makeNote(person: string, of: Pick<Note, 'unit' | 'trait' | 'kind' | 'flag' | 'text'>): Note {
  return { type: 'note', ...who(person), ...of }
}

export function makeOperation(person: string, of: Pick<Operation, 'kind' | 'siteKey' | 'on' | 'until' | 'text'>): Operation {
  return { type: 'operation', ...who(person), ...of }
}

export function makeFate(person: string, of: Omit<Fate, 'type' | 'id' | 'at' | 'person' | 'device'>): Fate {
  return { type: 'fate', ...who(person), ...of }
}

export function makeRetraction(person: string, retracts: string, reason: string): Retraction {
  return { type: 'retraction', ...who(person), retracts, reason }
}
