import { expect, test } from './serve.ts'
import { step } from './kit.ts'

test('results the other way where practitioners differ, over the dates, and stopped on the way', async ({ page, demo }) => {
  // Incomplete blocks: taken as chance, taken out beside it, and a model of the ground, each shown at a touch.
  await page.goto(demo.url)
  await page
    .getByRole('link', { name: /Oats: 24 lines/ })
    .first()
    .click()
  await step(page, 'Results')
  const schools = page.getByTestId('schools')
  await expect(schools).toContainText('blocks as chance, since each block holds a part of the treatments only')
  await expect(schools).toContainText(/With blocks taken out, .* told apart/)
  await expect(schools).toContainText(/Blocks fit better, for what they cost \(AIC [\d.]+ less\)/)
  const lead = await page.getByTestId('sentences').innerText()
  const anova = page.getByTestId('anova')
  await expect(anova).toContainText('Against df')
  await schools.getByRole('button', { name: 'Show it this way' }).first().click()
  await expect(page.getByTestId('other-school')).toContainText('Shown with blocks taken out; taken by itself: blocks as chance.')
  await expect(anova).toContainText('Sum of squares')
  await page.reload()
  await expect(page.getByTestId('other-school')).toBeVisible({ timeout: 60_000 })
  await page.getByRole('button', { name: 'Back to how it was taken' }).click()
  await expect(page.getByTestId('other-school')).toHaveCount(0)
  await expect.poll(() => page.getByTestId('sentences').innerText()).toBe(lead)

  // Two visits together: how dates go together is chosen, and the area under the curve stands beside it.
  await page.goto(demo.url)
  await page
    .getByRole('link', { name: /Pelargonium/ })
    .first()
    .click()
  await step(page, 'Results')
  await page.getByText('Over 2 visits', { exact: true }).click()
  await expect(page.getByTestId('models')).toContainText('unstructured')
  await expect(page.getByText(/What growth regulator does depends on date/).first()).toBeVisible()
  await expect(page.getByRole('heading', { name: 'Area under the curve' })).toBeVisible()
  await expect(page.getByText('0, 35 days from the first.')).toBeVisible()

  // Long work says what it does, stops at a touch, and is there again when it is asked for.
  await page.goto(demo.url)
  await page
    .getByRole('link', { name: /Sugar beet: nitrogen for three varieties/ })
    .first()
    .click()
  await step(page, 'Results')
  await expect(page.getByTestId('working').first()).toContainText(/Working it out: /)
  await page.getByRole('button', { name: 'Stop' }).first().click()
  await expect(page.getByText('Stopped.')).toBeVisible()
  await page.getByRole('button', { name: 'Work it out' }).first().click()
  await expect(page.getByTestId('stability')).toContainText('over 8 sites')
  await expect(page.getByTestId('schools')).toContainText('sites as a sample of many, since 8 sites are enough')
})
