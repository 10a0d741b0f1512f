/* eslint-disable no-restricted-globals -- the calendar is asked here, never the clock. */
import { mean, NOTHING, plain, type TraitKind } from './trait-kind.ts'

const DAY = 86_400_000

/** The day something was first seen. Analysed as the day of its year; several on one unit by their mean day. */
export const date: TraitKind = {
  key: 'date',
  name: 'Date',
  about: 'The day something came: first flower, ripe, lodged. Compared as the day of the year.',
  values: ['date'],
  measured: false,
  numeric: false,
  digits: 'rounded',
  held: false,
  ...plain,
  analysed: 'continuous',
  choices: null,
  keyboard: 'date',
  example: '2026-06-14',
  read(typed) {
    const text = typed.trim()
    const time = /^\d{4}-\d{2}-\d{2}$/.test(text) ? Date.parse(`${text}T00:00:00Z`) : NaN
    // A day that does not exist, such as 30 February, is read as another by the platform.
    if (!Number.isFinite(time) || new Date(time).toISOString().slice(0, 10) !== text)
      return { ok: false, problem: `“${text.slice(0, 30)}” is no date. Write it YYYY-MM-DD.` }
    return { ok: true, value: { kind: 'date', value: text }, number: null }
  },
  figure: () => null,
  reduce(values) {
    const days = values.flatMap((each) => (each.kind === 'date' ? [each.value] : []))
    const found = mean(days.map(dayOfYear))
    return { ...NOTHING, value: found, text: days.length === 1 ? days[0]! : `day ${found.toFixed(1)}`, part: found }
  },
}

/** 1 January is day 1. */
export function dayOfYear(day: string): number {
  return Math.round((Date.parse(`${day}T00:00:00Z`) - Date.parse(`${day.slice(0, 4)}-01-01T00:00:00Z`)) / DAY) + 1
}
