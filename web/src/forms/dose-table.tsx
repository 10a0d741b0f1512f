import { doseCautions, factorOf, forUnits, leading, rateInWords, type DoseRow } from '@canter/core/amounts'
import { factorColours, swatchFill } from '@canter/core/ground'
import { figure, workingChain, type UnitSystem, type Worked } from '@canter/core/quantity'
import { dayInWords, Nutrient, placementOf, SUPPLY, type Amounts, type Dose, type Product, type Treatments } from '@canter/core/trial'
import { useState } from 'react'
import classes from './doses.module.css'

interface DoseTableProps {
  readonly dose: Dose
  readonly product: Product | undefined
  readonly rows: readonly DoseRow[]
  readonly problems: readonly string[]
  readonly treatments: Treatments
  readonly unit: string
  readonly blocks: number
  readonly system: UnitSystem
  readonly spreadable: Amounts['spreadable']
  /** Whether it is said that a figure shows its working. */
  readonly hint: boolean
  readonly onChange: () => void
  readonly onRemove?: () => void
}

/** One thing that is put on: who gets it, how much of it a plot gets at each pass, and the site. */
export function DoseTable({
  dose,
  product,
  rows,
  problems,
  treatments,
  unit,
  blocks,
  system,
  spreadable,
  hint,
  onChange,
  onRemove,
}: DoseTableProps) {
  const [shown, setShown] = useState<Worked | null>(null)
  const factor = factorOf(dose, treatments)
  const { to } = dose
  const colours = factor ? factorColours(treatments, factor) : null
  const controls = new Set(
    treatments.list.flatMap((each) => (each.role === 'untreated control' && factor ? [each.levels[factor.key]] : [])),
  )
  const { parts } = dose
  const alike = parts.every((part) => part.share === parts[0]!.share)
  const [some] = rows
  const carried = rows.some((row) => row.carrier)
  const by = rows.some((row) => row.perArea)
  const nutrient = Nutrient.safeParse(dose.of)
  const button = (worked: Worked | null, testid?: string) =>
    worked === null ? (
      '–'
    ) : (
      <button
        type="button"
        className="figure-button"
        onClick={() => setShown(worked)}
        aria-label={`${worked.label}: show the working`}
        data-testid={testid}
      >
        {figure(worked, system)}
      </button>
    )
  const name = some?.product.product ?? product?.product ?? ''
  return (
    <div className={classes.dose} data-testid={`dose-${dose.key}`}>
      <div className={classes.title}>
        <h3>{name || 'Product not known'}</h3>
        <span className="small quiet">
          {[
            to === null
              ? `every ${unit} alike`
              : 'treatment' in to
                ? (treatments.list.find((each) => each.key === to.treatment)?.name ?? 'a treatment that is there no more')
                : to.level === null
                  ? `each level of ${(factor?.name ?? to.factor).toLowerCase()}`
                  : (factor?.levels.find((each) => each.key === to.level)?.name ?? 'a level that is no longer varied'),
            dose.amount === null ? '' : rateInWords({ ...dose, amount: dose.amount }),
            placementOf(dose.placement).name.toLowerCase(),
            parts.length === 1
              ? [parts[0]!.when, parts[0]!.on ? dayInWords(parts[0]!.on) : ''].filter(Boolean).join(', ')
              : `${parts.length} passes`,
          ]
            .filter(Boolean)
            .join(' · ')}
        </span>
        <span className={classes.acts}>
          <button type="button" className="link-button small" onClick={onChange} aria-label={`Change how ${name} is put on`}>
            How and when
          </button>
          {onRemove && (
            <button type="button" className="link-button small" onClick={onRemove} aria-label={`Take ${name} off again`}>
              Remove
            </button>
          )}
        </span>
      </div>
      {problems.map((text) => (
        <p key={text} className="caution small">
          {text}
        </p>
      ))}
      {rows.length > 0 && (
        <div style={{ overflowX: 'auto' }}>
          <table className="ruled" data-testid={dose.key === SUPPLY ? 'amounts' : undefined}>
            <thead>
              <tr>
                <th>Treatment</th>
                <th className="number">{nutrient.success ? `${nutrient.data} over the season` : 'Rate over the season'}</th>
                {by && <th className="number">Product over the season</th>}
                <th className="number">
                  Per {unit}
                  {parts.length > 1 ? (alike ? ', each pass' : ', first pass') : ''}
                </th>
                {carried && <th className="number">With water</th>}
                {blocks > 1 && <th className="number">Per block</th>}
                <th className="number">The site</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => {
                const each = leading(row.passes[0]!, row.product)
                const other = each === row.passes[0]!.mass ? row.passes[0]!.volume : null
                const { level, named } = row.recipient
                const even = row.units.length > 0 && row.units.length % blocks === 0 && row.wholes === row.units.length
                const inBlock = even ? row.units.length / blocks : 0
                return (
                  <tr key={named?.key ?? 'every'}>
                    <td>
                      {level && <span className="swatch" style={{ background: swatchFill(colours!.get(level.key)) }} />}
                      {named ? named.code : `every ${unit}`}
                      {level && controls.has(level.key) && row.rate.value === 0 && <span className="quiet"> control, treated first</span>}
                    </td>
                    <td className="number">{button(row.rate)}</td>
                    {by && <td className="number">{button(row.perArea)}</td>}
                    <td className="number">
                      {button(each, `per-plot-${dose.key === SUPPLY ? '' : `${dose.key}-`}${named?.code ?? 'every'}`)}
                      {other && other.value > 0 && <div className="small">{button(other)}</div>}
                    </td>
                    {carried && <td className="number">{row.rate.value > 0 || dose.carrierToAll ? button(row.carrier) : '–'}</td>}
                    {blocks > 1 && <td className="number">{inBlock > 0 ? button(forUnits(each, inBlock, unit, 'block')) : '–'}</td>}
                    <td className="number">{button(forUnits(each, row.wholes, unit, 'site'))}</td>
                  </tr>
                )
              })}
            </tbody>
          </table>
        </div>
      )}
      {rows.length > 0 && (
        <p className="small quiet" data-testid="working" style={{ minHeight: shown || !hint ? undefined : 20, margin: '6px 0 0' }}>
          {shown
            ? workingChain(shown, system).map((line) => (
                <span key={line} style={{ display: 'block' }}>
                  {line}
                </span>
              ))
            : hint
              ? 'Pick a figure to see its working.'
              : ''}
        </p>
      )}
      {[...new Set(rows.flatMap((row) => doseCautions(row, spreadable)))].map((text) => (
        <p key={text} className="caution small">
          {text}
        </p>
      ))}
    </div>
  )
}
