import { z } from 'zod'
import { id, line } from './text.ts'

const UnitSystemName = z.enum(['metric', 'us'])

/** Whoever enters, decides or reads. In single-person mode there is one, the local person. */
export const Person = z
  .object({
    id,
    name: line('Name', 80),
    units: UnitSystemName,
    /** Alt with a number changes step. */
    shortcuts: z.boolean(),
    theme: z.enum(['light', 'dark', 'auto']),
  })
  .meta({ id: 'Person' })
export type Person = z.infer<typeof Person>
export const PersonSettings = Person.omit({ id: true }).partial().meta({ id: 'PersonSettings' })
export type PersonSettings = z.infer<typeof PersonSettings>
