import { formatPlain, oxideOf } from '@canter/core/quantity'
import { hygieneClasses, Nutrient, nutrientName, productForms, type Product } from '@canter/core/trial'
import { Select, SegmentedControl } from '@mantine/core'
import type { ReactNode } from 'react'
import type { Saved } from '../data/saving.ts'
import { CommitText } from './commit-text.tsx'
import { CountField } from './count-field.tsx'
import { QuantityField } from './quantity-field.tsx'

/** Fields of a product that change, or what they become from those that stand. */
export type ProductPatch = Partial<Product> | ((stands: Product) => Partial<Product>)

interface ProductFieldsProps {
  readonly product: Product
  readonly change: (patch: ProductPatch) => Promise<Saved>
  /** The nutrient it is here for: asked first. */
  readonly main?: Nutrient
  readonly currency?: string
  /** Asked before the name, and beside it. */
  readonly first?: ReactNode
  readonly children?: ReactNode
}

/** What a product is and what its label says; saved field by field. */
export function ProductFields({ product, change, main, currency = '', first, children }: ProductFieldsProps) {
  const measure = product.labelMeasure ?? 'kg/ha'
  return (
    <div className="fields">
      {first}
      <CommitText
        className="half"
        label={main ? `Product that carries the ${main}` : 'Product'}
        placeholder="its name as on the bag"
        value={product.product}
        onCommit={(name) => change({ product: name })}
        check={(text) => (text === '' ? 'Name the product.' : null)}
      />
      <Select
        label="Form"
        placeholder="how it comes"
        data={productForms.map(({ key, name }) => ({ value: key, label: name }))}
        value={product.form ?? null}
        clearable
        onChange={(form) => void change({ form: form as Product['form'] })}
      />
      {main && (
        <Share
          nutrient={main}
          product={product}
          change={change}
          label={`${main} by ${product.analysisBy === 'volume' ? 'volume' : 'weight'}`}
          needed
        />
      )}
      {children}
      <QuantityField
        label="Label maximum, one application"
        value={product.labelMaximumPerApplication}
        unit={measure}
        low={0.001}
        optional
        onCommit={(labelMaximumPerApplication) => change({ labelMaximumPerApplication })}
      />
      <QuantityField
        label="Label maximum, whole season"
        value={product.labelMaximumPerSeason}
        unit={measure}
        low={0.001}
        optional
        onCommit={(labelMaximumPerSeason) => change({ labelMaximumPerSeason })}
      />
      <CountField
        label="Stay out after (hours)"
        value={product.reentryHours}
        low={0}
        high={10000}
        optional
        onCommit={(reentryHours) => change({ reentryHours })}
      />
      <CountField
        label="Before harvest (days)"
        value={product.preHarvestDays}
        low={0}
        high={1000}
        optional
        onCommit={(preHarvestDays) => change({ preHarvestDays })}
      />
      <CommitText
        className="half"
        label="Protective equipment"
        value={product.protection}
        onCommit={(protection) => change({ protection })}
      />
      <Contents product={product} change={change} {...(main ? { main } : {})} />
      <FurtherLabel product={product} change={change} currency={currency} />
    </div>
  )
}

/** Nutrients as elements with the oxide beside, density, active ingredient, life, kernels. */
function Contents({ product, change, main }: Pick<ProductFieldsProps, 'product' | 'change' | 'main'>) {
  const held = Nutrient.options.filter((each) => each !== main && (product.analysis[each] ?? 0) > 0)
  const { active, live, seed } = product
  const livePart = (patch: Partial<NonNullable<Product['live']>>) =>
    change((stands) => ({ live: { ...(stands.live ?? { perGram: null, keepBelow: null, useBy: null, openHours: null }), ...patch } }))
  const seedPart = (patch: Partial<NonNullable<Product['seed']>>) =>
    change((stands) => ({ seed: { ...(stands.seed ?? { kernelWeight: null, germination: null }), ...patch } }))
  return (
    <details className="wide">
      <summary className="small">
        What {main ? 'else ' : ''}is in it
        {held.length > 0 ? ` (${held.map((each) => `${each} ${formatPlain(product.analysis[each]!, 4)} %`).join(', ')})` : ''}, and its
        density
      </summary>
      <div className="fields" style={{ alignItems: 'start', marginTop: 6 }}>
        <div className="wide">
          <SegmentedControl
            size="xs"
            aria-label="What the analysis is of"
            value={product.analysisBy ?? 'weight'}
            onChange={(value) => void change({ analysisBy: value })}
            data={[
              { value: 'weight', label: '% by weight' },
              { value: 'volume', label: '% w/v, g in 100 mL' },
            ]}
          />
        </div>
        {Nutrient.options
          .filter((each) => each !== main)
          .map((nutrient) => (
            <Share key={nutrient} nutrient={nutrient} product={product} change={change} label={`${nutrientName(nutrient)}, ${nutrient}`} />
          ))}
        <QuantityField
          label="Density, of a liquid"
          value={product.density ?? null}
          unit="kg/L"
          low={0.5}
          high={5}
          optional
          onCommit={(density) => change({ density })}
        />
        <CommitText
          label="Active ingredient"
          placeholder="as on the label"
          value={active?.name ?? ''}
          onCommit={(name) =>
            change((stands) => ({ active: name === '' ? null : { content: null, measure: 'g/L', ...stands.active, name } }))
          }
        />
        {active && (
          <>
            <QuantityField
              label="Of it in the product"
              value={active.content}
              unit={active.measure}
              low={1e-9}
              optional
              onCommit={(content) => change((stands) => ({ active: { ...stands.active!, content } }))}
            />
            <Select
              label="in"
              data={['g/L', '%', 'g/kg', 'mg/L']}
              value={active.measure}
              allowDeselect={false}
              onChange={(measure) => void change((stands) => ({ active: { ...stands.active!, measure: measure ?? 'g/L' } }))}
            />
          </>
        )}
        {product.form === 'living' && (
          <>
            <CommitText
              label="Living cells or spores in a gram"
              placeholder="1e9"
              value={live?.perGram ? String(live.perGram) : ''}
              check={(text) => (text === '' || Number(text) > 0 ? null : 'A number, as 1e9.')}
              onCommit={(text) => livePart({ perGram: text === '' ? null : Number(text) })}
            />
            <QuantityField
              label="Kept below"
              value={live?.keepBelow ?? null}
              unit="°C"
              low={-30}
              high={60}
              optional
              onCommit={(keepBelow) => livePart({ keepBelow })}
            />
            <CommitText
              label="Good until"
              type="date"
              value={live?.useBy ?? ''}
              onCommit={(text) => livePart({ useBy: text === '' ? null : text })}
            />
            <CountField
              label="Once opened, good for (hours)"
              value={live?.openHours ?? null}
              low={1}
              high={10000}
              optional
              onCommit={(openHours) => livePart({ openHours })}
            />
          </>
        )}
        {product.form === 'seed' && (
          <>
            <QuantityField
              label="Weight of a thousand kernels"
              value={seed?.kernelWeight ?? null}
              unit="g"
              low={1e-6}
              optional
              onCommit={(kernelWeight) => seedPart({ kernelWeight })}
            />
            <QuantityField
              label="Germination"
              value={seed?.germination ?? null}
              unit="%"
              low={0.1}
              high={100}
              optional
              onCommit={(germination) => seedPart({ germination })}
            />
          </>
        )}
      </div>
    </details>
  )
}

/** What else a label says: when not, what it harms, what it carries over to; and what it costs. */
function FurtherLabel({ product, change, currency }: Pick<ProductFieldsProps, 'product' | 'change' | 'currency'>) {
  const told = [product.hygiene, product.notAt, product.price && 'price'].filter(Boolean).join(', ')
  return (
    <details className="wide">
      <summary className="small">What else its label says, and its price{told ? ` (${told})` : ''}</summary>
      <div className="fields" style={{ alignItems: 'start', marginTop: 6 }}>
        <Select
          label="Label maxima are in"
          data={['kg/ha', 'L/ha']}
          value={product.labelMeasure ?? 'kg/ha'}
          allowDeselect={false}
          onChange={(measure) => void change({ labelMeasure: measure as Product['labelMeasure'] })}
        />
        <CommitText
          className="half"
          label="Not to be put on"
          placeholder="seedlings, in flower, after the first frost"
          value={product.notAt ?? ''}
          onCommit={(notAt) => change({ notAt })}
        />
        <CommitText className="half" label="Salt, scorch, poisoning" value={product.harm ?? ''} onCommit={(harm) => change({ harm })} />
        <QuantityField
          label="Harms the crop above"
          value={product.harmAbove ?? null}
          unit="mg/L"
          low={1e-6}
          optional
          onCommit={(harmAbove) => change({ harmAbove })}
        />
        <Select
          label="Carries over as"
          placeholder="nothing to clean out"
          data={hygieneClasses.map(({ key, name }) => ({ value: key, label: name }))}
          value={product.hygiene ?? null}
          clearable
          onChange={(hygiene) => void change({ hygiene: hygiene as Product['hygiene'] })}
        />
        <CountField
          label="One rate is meant for (seasons)"
          value={product.seasons ?? null}
          low={1}
          high={50}
          optional
          onCommit={(seasons) => change({ seasons })}
        />
        <CommitText
          label={`Price${currency ? `, ${currency}` : ''}`}
          inputMode="decimal"
          value={product.price ? formatPlain(product.price.amount, 6) : ''}
          check={(text) => (text === '' || Number(text.replace(',', '.')) >= 0 ? null : 'A price is a number, and never below zero.')}
          onCommit={(text) =>
            change((stands) => ({ price: text === '' ? null : { per: stands.price?.per ?? 'kg', amount: Number(text.replace(',', '.')) } }))
          }
        />
        <Select
          label="for each"
          data={['kg', 'L']}
          value={product.price?.per ?? 'kg'}
          allowDeselect={false}
          disabled={!product.price}
          onChange={(per) => void change((stands) => ({ price: stands.price ? { ...stands.price, per: per as 'kg' | 'L' } : null }))}
        />
      </div>
    </details>
  )
}

interface ShareProps extends Pick<ProductFieldsProps, 'product' | 'change'> {
  readonly nutrient: Nutrient
  readonly label: string
  readonly needed?: boolean
}

function Share({ nutrient, product, change, label, needed = false }: ShareProps) {
  const value = product.analysis[nutrient] ?? null
  const oxide = oxideOf(nutrient)
  return (
    <QuantityField
      label={label}
      description={oxide && value ? `${formatPlain(value / oxide.share, 3)} % ${oxide.oxide}` : undefined}
      value={value}
      unit="%"
      low={needed ? 0.01 : 0}
      high={100}
      optional={!needed}
      onCommit={(share) =>
        share === null && needed
          ? undefined
          : change((stands) => {
              const { [nutrient]: _, ...rest } = stands.analysis
              return { analysis: share ? { ...rest, [nutrient]: share } : rest }
            })
      }
    />
  )
}
