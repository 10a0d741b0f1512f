import { dayInWords, type KnownDay } from '@canter/core/trial'
import dayjs from 'dayjs'
import { useOpenTrial } from './open-trial.ts'

/** Days of the open site that words such as “five days later” may be counted from. */
export function useKnownDays(): KnownDay[] {
  const { trial, site, progress } = useOpenTrial()
  const planted = progress.planted.find((each) => each.siteKey === site.key)
  const today = dayjs().format('YYYY-MM-DD')
  return [
    ...(planted ? [{ what: `planting (${dayInWords(planted.on)})`, span: { from: planted.on, to: planted.until ?? planted.on } }] : []),
    ...trial.traits.visits.flatMap((each) =>
      each.on === null ? [] : [{ what: `the visit “${each.name}” (${dayInWords(each.on)})`, span: { from: each.on, to: each.on } }],
    ),
    { what: 'today', span: { from: today, to: today } },
  ]
}
