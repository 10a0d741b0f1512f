import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { labelAt, LABEL_SHEETS } from '@canter/core/ground'
import type { Page } from '@playwright/test'
import { fileOf } from './kit.ts'
import { expect, test } from './serve.ts'

const BEET = '019d0a79-1280-7a47-ba7d-4216a351a6d3'
const from = (address: string): string => readFileSync(fileURLToPath(address), 'utf8')
const LIBRARY: Readonly<Record<string, string>> = {
  '/pdf.mjs': import.meta.resolve('pdfjs-dist/build/pdf.mjs'),
  '/pdf.worker.mjs': import.meta.resolve('pdfjs-dist/build/pdf.worker.mjs'),
}

interface Read {
  /** Text of each page, and its size in millimetres. */
  pages: { text: string[]; width: number; height: number }[]
  /** What the codes say at the places asked. */
  codes: (string | null)[]
}

/** A printed file read as a person with a reader for codes would: drawn page by page. Places in mm from the upper left. */
async function readPdf(
  page: Page,
  pdf: Buffer,
  places: readonly { page: number; x: number; y: number; width: number; height: number }[],
): Promise<Read> {
  await page.route('http://reader.test/**', (route) => {
    const { pathname } = new URL(route.request().url())
    if (pathname === '/file.pdf') return route.fulfill({ body: pdf, contentType: 'application/pdf' })
    const file = LIBRARY[pathname]
    if (file) return route.fulfill({ body: from(file), contentType: 'text/javascript' })
    return route.fulfill({ body: '<!doctype html><title>Reader</title>', contentType: 'text/html' })
  })
  await page.goto('http://reader.test/')
  await page.addScriptTag({ content: from(import.meta.resolve('jsqr/dist/jsQR.js')) })
  return page.evaluate(async (asked) => {
    const library: string = 'http://reader.test/pdf.mjs'
    const reader = (await import(library)) as {
      GlobalWorkerOptions: { workerSrc: string }
      getDocument: (of: string) => { promise: Promise<{ numPages: number; getPage: (n: number) => Promise<never> }> }
    }
    reader.GlobalWorkerOptions.workerSrc = 'http://reader.test/pdf.worker.mjs'
    const file = await reader.getDocument('http://reader.test/file.pdf').promise
    const SCALE = 3
    const MM = 72 / 25.4
    const pages: Read['pages'] = []
    const codes: Read['codes'] = asked.map(() => null)
    for (let n = 1; n <= file.numPages; n++) {
      const sheet = (await file.getPage(n)) as {
        getViewport: (of: { scale: number }) => { width: number; height: number }
        render: (of: object) => { promise: Promise<void> }
        getTextContent: () => Promise<{ items: { str: string }[] }>
      }
      const view = sheet.getViewport({ scale: SCALE })
      const canvas = document.createElement('canvas')
      ;[canvas.width, canvas.height] = [view.width, view.height]
      const drawing = canvas.getContext('2d', { willReadFrequently: true })!
      await sheet.render({ canvasContext: drawing, viewport: view }).promise
      const { items } = await sheet.getTextContent()
      pages.push({ text: items.map((item) => item.str), width: view.width / SCALE / MM, height: view.height / SCALE / MM })
      asked.forEach((place, i) => {
        if (place.page !== n - 1) return
        const [x, y, width, height] = [place.x, place.y, place.width, place.height].map((each) => Math.round(each * MM * SCALE)) as [number, number, number, number] // prettier-ignore
        const { data } = drawing.getImageData(x, y, width, height)
        const read = (window as unknown as { jsQR: (data: Uint8ClampedArray, width: number, height: number) => { data: string } | null })
          .jsQR
        codes[i] = read(data, width, height)?.data ?? null
      })
    }
    return { pages, codes }
  }, places)
}

test('labels over two sheets: every plot once, and each code opens its plot in Walk', async ({ page, demo }) => {
  const { layouts } = await fileOf(demo, BEET)
  const plots = layouts[0]!.units.filter((unit) => unit.kind === 'plot').sort((a, b) => a.walk! - b.walk!)
  const sheet = LABEL_SHEETS[0]!
  await page.goto(`${demo.url}/trials/${BEET}/stakes?as=labels&used=5`)
  await expect(page.getByRole('region', { name: 'Sheet 2 of 2' })).toBeVisible()
  const places = plots.map((_, n) => ({ ...labelAt(sheet, n, 5), width: sheet.width, height: sheet.height }))
  const { pages, codes } = await readPdf(page, await page.pdf({ preferCSSPageSize: true, printBackground: true }), places)
  expect(pages).toHaveLength(2)
  for (const { width, height } of pages) expect([Math.round(width), Math.round(height)]).toEqual([210, 297])
  const words = pages.flatMap((each) => each.text)
  for (const plot of plots) expect(words.filter((word) => word === plot.code)).toHaveLength(1)
  expect(codes).toEqual(plots.map((plot) => `${demo.url}/w/${BEET}/${plot.id}`))
  await page.goto(codes[7]!)
  await expect(page).toHaveURL(new RegExp(`/walk\\?plot=${plots[7]!.id}`))
  await expect(page.getByTestId('plot-card')).toContainText(plots[7]!.code)

  // For whoever is not to know, without the treatments; a label of a trial dealt out anew says so.
  await page.goto(`${demo.url}/trials/${BEET}/stakes?as=labels&bare=&sheet=${LABEL_SHEETS[4]!.key}`)
  await expect(page.locator('[data-label]')).toHaveCount(24)
  await expect(page.locator('[data-label]').first()).not.toContainText(/N\d/)
  const small = plots.map((_, n) => ({ ...labelAt(LABEL_SHEETS[4]!, n, 0), width: 38.1, height: 21.2 }))
  const tiny = await readPdf(page, await page.pdf({ preferCSSPageSize: true }), small)
  expect(tiny.codes.filter((code) => code !== null)).toHaveLength(24)
  await page.goto(`${demo.url}/w/${BEET}/019d0a79-1280-7000-8000-000000000000`)
  await expect(page.getByText('dealt out anew since the label was printed')).toBeVisible()
})

test('the plan over several sheets, packets in planting order, and a blank field book', async ({ page, demo }) => {
  const { layouts } = await fileOf(demo, BEET)
  const plots = layouts[0]!.units.filter((unit) => unit.kind === 'plot')
  await page.goto(`${demo.url}/trials/${BEET}/plan`)
  await expect(page.getByRole('img', { name: 'Plan of Hazel Bank' })).toHaveCount(1)
  const one = await readPdf(page, await page.pdf({ preferCSSPageSize: true, printBackground: true }), [])
  expect(one.pages).toHaveLength(1)
  for (const plot of plots) expect(one.pages[0]!.text.filter((word) => word === plot.code)).toHaveLength(1)
  expect(one.pages[0]!.text.join(' ')).toMatch(/\d+ m.*north/)

  await page.goto(`${demo.url}/trials/${BEET}/plan`)
  await page.getByRole('radiogroup', { name: 'Paper' }).getByText('A3').click()
  await page.getByRole('combobox', { name: 'Scale' }).click()
  await page.getByRole('option', { name: '1 to 75', exact: true }).click()
  const count = await page.getByRole('img', { name: 'Plan of Hazel Bank' }).count()
  expect(count).toBeGreaterThan(1)
  const several = await readPdf(page, await page.pdf({ preferCSSPageSize: true, printBackground: true }), [])
  expect(several.pages).toHaveLength(count)
  expect([several.pages[0]!.width, several.pages[0]!.height].map(Math.round).sort()).toEqual([297, 420])
  // On the seam of two sheets a plot is drawn on both; none is on none.
  for (const plot of plots) expect(several.pages.flatMap((each) => each.text)).toContain(plot.code)

  await page.goto(`${demo.url}/trials/${BEET}/stakes?as=packets`)
  await expect(page.locator('[data-label]')).toHaveCount(24)
  await expect(page.locator('[data-label]').first()).toContainText('packet 1 of 24, planting order')
  await page.goto(`${demo.url}/trials/${BEET}/stakes?as=book`)
  await expect(page.getByRole('row')).toHaveCount(25)
  await expect(page.getByRole('columnheader', { name: 'Sugar content, %' })).toBeVisible()
  const book = await readPdf(page, await page.pdf({ preferCSSPageSize: true }), [])
  const words = book.pages.flatMap((each) => each.text)
  for (const plot of plots) expect(words.filter((word) => word === plot.code)).toHaveLength(1)
})
