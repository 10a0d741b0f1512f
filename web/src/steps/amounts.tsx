import {
  applicationCautions,
  doseAmounts,
  dosesOf,
  handlingCautions,
  isDry,
  leftOf,
  nutrientFactor,
  passesOf,
  productOf,
  stopsEverywhere,
  type PassWorksheet,
  type Remaining,
} from '@canter/core/amounts'
import { outline } from '@canter/core/ground'
import { emptySupply } from '@canter/core/numbers'
import { counted, formatPlain } from '@canter/core/quantity'
import {
  bareProduct,
  changedFields,
  nutrientName,
  nutrientOf,
  SUPPLY,
  type Dose,
  type Nutrient,
  type Product,
  type Supply,
  type TrialProduct,
  type Unit,
} from '@canter/core/trial'
import { Button, Select } from '@mantine/core'
import { useMemo, useState } from 'react'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePerson, useShelf } from '../data/queries.ts'
import { useRemaining } from '../data/remaining.ts'
import { useSaving } from '../data/saving.ts'
import { CountField } from '../forms/count-field.tsx'
import { DoseForm } from '../forms/dose-form.tsx'
import { DoseTable } from '../forms/dose-table.tsx'
import { PassList } from '../forms/pass-list.tsx'
import { ProductFields } from '../forms/product-fields.tsx'
import { TotalsTable } from '../forms/totals-table.tsx'
import { SmallDoses } from '../forms/small-doses.tsx'
import { newSheet, Worksheets, type OpenedSheet } from '../forms/worksheets.tsx'

/** From a rate to what is weighed, poured or counted, every figure with its working; per site and per factor. */
export function AmountsStep() {
  const { known: trial } = useOpenTrial()
  const [opened, setOpened] = useState(false)
  if (trial.treatments.blinded && !opened)
    return (
      <>
        <p className="sentence lead">This trial is blinded: what each code gets is shown to whoever weighs and applies it.</p>
        <Button variant="outline" onClick={() => setOpened(true)}>
          I weigh and apply: show it here
        </Button>
      </>
    )
  return <Amounts />
}

function Amounts() {
  const { known: trial, site, layout } = useOpenTrial()
  const { save } = useSaving()
  const { units: system } = usePerson()
  const left = useRemaining(trial.id, site.key)
  const placed = useMemo(() => layout?.units ?? outline(trial, site.key), [layout, site.key, trial])
  const [form, setForm] = useState<Dose | 'new' | null>(null)
  const [sheet, setSheet] = useState<{ readonly site: string; readonly opened: OpenedSheet } | null>(null)
  const [waiting, setWaiting] = useState<string | null>(null)
  const openSheet = (opened: OpenedSheet | null): void => {
    // What is typed in one that is open would be lost by another.
    if (opened && sheet?.site === site.key) return setWaiting(opened.title)
    setWaiting(null)
    setSheet(opened && { site: site.key, opened })
  }
  const begin = ({ calculation, title, given, pass }: PassWorksheet): void => openSheet(newSheet(calculation, title, given, system, pass))
  const { treatments, amounts } = trial
  const { rows, problems } = useMemo(() => doseAmounts(treatments, amounts, site, placed, left), [treatments, amounts, site, placed, left])
  const doses = dosesOf(treatments, amounts)
  const factor = nutrientFactor(treatments)
  const blocks = placed.filter((unit) => unit.kind === 'block').length
  const keep = async (dose: Omit<Dose, 'key'>, product: TrialProduct | null) => {
    const saved = await save('amounts', ({ amounts: stands }) => {
      const all = stands.doses ?? []
      const standing = form === 'new' ? undefined : form?.key
      const taken = new Set([SUPPLY, ...all.map((each) => each.key)])
      let n = all.length + 1
      while (taken.has(`dose-${n}`)) n++
      const key = standing ?? `dose-${n}`
      const next: Dose = { ...dose, key }
      return {
        doses: all.some((each) => each.key === key)
          ? all.map((each) => (each.key === key ? next : each))
          : key === SUPPLY
            ? [next, ...all]
            : [...all, next],
        ...(product ? { products: [...(stands.products ?? []), product] } : {}),
        // How often the product of the nutrient goes on is told in one place.
        ...(dose.product === SUPPLY && stands.supply
          ? { supply: { ...stands.supply, applications: Math.min(12, dose.parts.length) } }
          : {}),
      }
    })
    if (saved.ok) setForm(null)
    return saved
  }
  const reason = (dose: Dose, text: string) =>
    save('amounts', (standing) => {
      const { doses: all, supply } = standing.amounts
      const answered = text === '' ? null : stopsEverywhere(standing, dose.key)
      return all?.some((each) => each.key === dose.key)
        ? { doses: all.map((each) => (each.key === dose.key ? { ...each, reason: text, answered } : each)) }
        : { supply: { ...supply!, overMaximumReason: text, answered } }
    })
  const shownForm = form !== null && (
    <DoseForm key={form === 'new' ? 'new' : form.key} standing={form === 'new' ? null : form} onKeep={keep} onLeave={() => setForm(null)} />
  )
  const products = [...new Map(rows.map((row) => [row.dose.product, row.product])).values()]
  return (
    <>
      {factor && <MainProduct nutrient={nutrientOf(factor)!} />}
      <section className="section" aria-labelledby="doses">
        <h2 className="section-title" id="doses">
          What goes on
        </h2>
        {doses.length === 0 && (
          <p className="quiet">
            {factor
              ? `Choose above the product that carries the ${nutrientOf(factor)!}: what a plot gets of it then stands here.`
              : 'Nothing yet: say of each treatment what is put on, and what all get alike.'}
          </p>
        )}
        {doses.map((dose) =>
          form !== 'new' && form?.key === dose.key ? (
            <div key={dose.key}>{shownForm}</div>
          ) : (
            <DoseTable
              key={dose.key}
              dose={dose}
              product={productOf(amounts, dose.product)}
              rows={rows.filter((row) => row.dose.key === dose.key)}
              problems={problems.filter((each) => each.dose.key === dose.key).map((each) => each.problem)}
              treatments={treatments}
              unit={site.design.unit}
              blocks={blocks}
              system={system}
              spreadable={amounts.spreadable}
              hint={dose === doses[0]}
              onChange={() => setForm(dose)}
              {...((amounts.doses ?? []).some((each) => each.key === dose.key)
                ? {
                    onRemove: () =>
                      void save('amounts', ({ amounts: stands }) => ({
                        doses: (stands.doses ?? []).filter((each) => each.key !== dose.key),
                      })),
                  }
                : {})}
            />
          ),
        )}
        {rows.some((row) => isDry(row)) && (
          <SmallDoses
            trial={trial}
            site={site}
            passes={passesOf(rows, site, placed, left)}
            onBegin={begin}
            onThreshold={(spreadable) => save('amounts', { spreadable })}
          />
        )}
        <LeftLine left={left} placed={placed} unit={site.design.unit} />
        {amounts.common.length > 0 && (
          <p className="small quiet" style={{ margin: '6px 0 0' }} data-testid="in-words">
            Said in words under Question, of all alike:{' '}
            {amounts.common.map(({ what, amount }) => [what, amount].filter(Boolean).join(' ')).join('; ')}. Only what is put on here is
            counted in what each treatment gets in all.
          </p>
        )}
        {form === 'new' ? (
          shownForm
        ) : (
          <Button size="compact-md" variant="outline" mt={8} onClick={() => setForm('new')}>
            Put something {doses.length > 0 ? 'else ' : ''}on
          </Button>
        )}
      </section>
      <FurtherProducts />
      <TotalsTable trial={trial} site={site} />
      <PassList trial={trial} site={site} rows={rows} units={placed} left={left} laid={layout !== null} onBegin={begin} onReason={reason} />
      <Worksheets
        key={site.key}
        units={placed}
        opened={sheet?.site === site.key ? sheet.opened : null}
        waiting={waiting}
        onOpen={openSheet}
      />
      <section className="section" aria-labelledby="cautions">
        <h2 className="section-title" id="cautions">
          Before anyone measures out or applies
        </h2>
        {[
          ...new Set([
            ...applicationCautions(products.length > 0 ? products : [bareProduct('–')]),
            ...rows.flatMap((row) => handlingCautions(row)),
          ]),
        ].map((text) => (
          <p key={text} className="caution small">
            {text}
          </p>
        ))}
      </section>
    </>
  )
}

/** The product that carries the nutrient that is varied. */
function MainProduct({ nutrient }: { nutrient: Nutrient }) {
  const { known: trial } = useOpenTrial()
  const { save } = useSaving()
  const shelf = useShelf()
  const { supply, doses } = trial.amounts
  const empty = (): Supply => emptySupply(`Product with ${nutrientName(nutrient).toLowerCase()}`)
  const write = (patch: Partial<Supply> | ((stands: Supply) => Partial<Supply>)) =>
    save('amounts', ({ amounts }) => {
      const stands = amounts.supply ?? empty()
      return { supply: { ...stands, ...(typeof patch === 'function' ? patch(stands) : patch) } }
    })
  const offered = shelf.flatMap((item) => (item.kind === 'product' && item.body.analysis[nutrient] ? [item] : []))
  const stated = (doses ?? []).some((dose) => dose.key === SUPPLY)
  return (
    <section className="section" aria-labelledby="product">
      <h2 className="section-title" id="product">
        Product
      </h2>
      <ProductFields
        first={
          offered.length > 0 && (
            <Select
              className="half"
              label="From the shelf"
              placeholder={`products with ${nutrient}`}
              data={offered.map((item) => ({ value: item.id, label: item.name }))}
              value={offered.find((item) => item.name === supply?.product)?.id ?? null}
              onChange={(id) => {
                const item = offered.find((each) => each.id === id)
                if (item?.kind === 'product')
                  void save('amounts', ({ amounts }) => ({
                    supply: { ...item.body, applications: amounts.supply?.applications ?? 1, overMaximumReason: '' },
                  }))
              }}
            />
          )
        }
        product={supply ?? { ...empty(), product: '' }}
        change={write}
        main={nutrient}
        currency={trial.prices.currency}
      >
        {!stated && (
          <CountField
            label="Applications"
            value={supply?.applications ?? 1}
            low={1}
            high={12}
            onCommit={(applications) => (applications === null ? undefined : write({ applications }))}
          />
        )}
      </ProductFields>
      {supply && <ChangedOnShelf product={supply} onTake={(body) => void write(body)} />}
    </section>
  )
}

/** Labels of what else is put on, each to be opened. */
function FurtherProducts() {
  const { known: trial } = useOpenTrial()
  const { save } = useSaving()
  const products = trial.amounts.products ?? []
  const used = new Set((trial.amounts.doses ?? []).map((dose) => dose.product))
  if (products.length === 0) return null
  return (
    <section className="section" aria-labelledby="further-products">
      <h2 className="section-title" id="further-products">
        Labels of what else goes on
      </h2>
      {products.map((product) => (
        <details key={product.key} data-testid={`label-${product.key}`}>
          <summary>
            {product.product}
            {!used.has(product.key) && <span className="small quiet"> not put on</span>}
          </summary>
          <ProductFields
            product={product}
            currency={trial.prices.currency}
            change={(patch) =>
              save('amounts', ({ amounts }) => ({
                products: (amounts.products ?? []).map((each) =>
                  each.key === product.key ? { ...each, ...(typeof patch === 'function' ? patch(each) : patch) } : each,
                ),
              }))
            }
          />
          <ChangedOnShelf
            product={product}
            onTake={(body) =>
              void save('amounts', ({ amounts }) => ({
                products: (amounts.products ?? []).map((each) => (each.key === product.key ? { ...body, key: each.key } : each)),
              }))
            }
          />
          {!used.has(product.key) && (
            <button
              type="button"
              className="link-button small"
              onClick={() =>
                void save('amounts', ({ amounts }) => ({ products: (amounts.products ?? []).filter((each) => each.key !== product.key) }))
              }
            >
              Take {product.product} out of the trial
            </button>
          )}
        </details>
      ))}
    </section>
  )
}

/** That the shelf says otherwise of it by now: nothing changes here until somebody takes it over. */
function ChangedOnShelf({ product, onTake }: { product: Product; onTake: (body: Product) => void }) {
  const item = useShelf().find((each) => each.kind === 'product' && each.name === product.product)
  const changed = item?.kind === 'product' ? changedFields(product, item.body) : []
  if (item?.kind !== 'product' || changed.length === 0) return null
  return (
    <p className="small quiet" data-testid="changed-on-shelf">
      The shelf says otherwise of: {changed.join(', ')}. Nothing changes here by itself.{' '}
      <button type="button" className="link-button" onClick={() => onTake(item.body)}>
        Take it over
      </button>
    </p>
  )
}

/** Of what is gone, that nothing is measured out for it any more; and of what is not whole, that it gets less. */
function LeftLine({ left, placed, unit }: { left: Remaining; placed: readonly Unit[]; unit: string }) {
  const treated = placed.filter((each) => each.kind === unit && left.has(each.id))
  const lost = treated.filter((each) => leftOf(left, each.id) === 0)
  const partly = treated.filter((each) => leftOf(left, each.id) > 0)
  return treated.length === 0 ? null : (
    <p className="small quiet" style={{ margin: '6px 0 0' }} data-testid="not-whole">
      {lost.length > 0 &&
        `${counted(lost.length, unit)} lost or discarded (${lost.map((each) => each.code).join(', ')}): nothing is weighed for ${lost.length === 1 ? 'it' : 'them'}. `}
      {partly.length > 0 &&
        `Partly lost: ${partly.map((each) => `${each.code} (${formatPlain(100 * leftOf(left, each.id), 3)} % remains)`).join(', ')}. At the same rate ${partly.length === 1 ? 'it gets' : 'they get'} that share of what a whole ${unit} gets, from then on.`}
    </p>
  )
}
