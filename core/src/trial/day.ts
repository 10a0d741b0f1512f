export const MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
] as const

/** 2026-07-03 as one says it: 3 July 2026. */
export function dayInWords(day: string): string {
  const [year, month, date] = day.split('-').map(Number)
  return `${date} ${MONTHS[month! - 1]} ${year}`
}

/** Days since a fixed day, so that two of them tell how far apart days are (Hatcher 1984). */
export function dayNumber(day: string): number {
  const [year, month, date] = day.split('-').map(Number) as [number, number, number]
  const [y, m] = month > 2 ? [year, month - 3] : [year - 1, month + 9]
  return 365 * y + Math.floor(y / 4) - Math.floor(y / 100) + Math.floor(y / 400) + Math.floor((153 * m + 2) / 5) + date
}

/** The day so many days after another, or before it. */
export function dayAfter(day: string, days: number): string {
  const wanted = dayNumber(day) + days
  // Years of 365.2425 days land within a day of the right one.
  let year = Math.floor((wanted - 60) / 365.2425)
  while (dayNumber(`${pad(year + 1, 4)}-01-01`) <= wanted) year++
  while (dayNumber(`${pad(year, 4)}-01-01`) > wanted) year--
  let month = 12
  while (dayNumber(`${pad(year, 4)}-${pad(month, 2)}-01`) > wanted) month--
  return `${pad(year, 4)}-${pad(month, 2)}-${pad(wanted - dayNumber(`${pad(year, 4)}-${pad(month, 2)}-01`) + 1, 2)}`
}

function pad(value: number, width: number): string {
  return String(value).padStart(width, '0')
}
