import { cleanOut, passesOf, sheetStops, type DoseRow, type Pass, type PassWorksheet, type Remaining } from '@canter/core/amounts'
import { figure } from '@canter/core/quantity'
import { dayInWords, type Site, type Trial, type Unit } from '@canter/core/trial'
import { Fragment } from 'react'
import { Link } from 'react-router'
import { usePerson } from '../data/queries.ts'
import { useSelection } from '../data/selection.ts'
import type { Saved } from '../data/saving.ts'
import { CommitText } from './commit-text.tsx'
import classes from './doses.module.css'
import { BeginSheet, PassSheets } from './pass-sheets.tsx'
import { WentOut } from './went-out.tsx'

interface PassListProps {
  readonly trial: Trial
  readonly site: Site
  readonly rows: readonly DoseRow[]
  readonly units: readonly Unit[]
  readonly left: Remaining
  /** Whether plots have their treatments by now. */
  readonly laid: boolean
  readonly onBegin: (sheet: PassWorksheet) => void
  readonly onReason: (dose: DoseRow['dose'], reason: string) => Promise<Saved>
}

/** Every pass in the order of its day: its sheet to print, what stops it, and what really went out. */
export function PassList({ trial, site, rows, units, left, laid, onBegin, onReason }: PassListProps) {
  const { units: system } = usePerson()
  const selection = useSelection()
  const passes = passesOf(rows, site, units, left)
  if (passes.length === 0) return null
  return (
    <section className="section" aria-labelledby="passes">
      <h2 className="section-title" id="passes">
        Passes and their sheets
      </h2>
      {passes.map((pass, i) => {
        const { by, refusal } = sheetStops(pass.rows, trial, site)
        const cleaned = cleanOut(passes[i - 1]?.product ?? null, pass.product)
        const water = pass.product.form === 'water'
        const first = passes.findIndex((each) => each.dose === pass.dose) === i
        return (
          <Fragment key={pass.key}>
            {cleaned && <p className="caution small">{cleaned}</p>}
            <div className={classes.pass} data-testid={`pass-${pass.key}`}>
              <span>
                <strong>{pass.product.product}</strong>
                <span className="small quiet">{` ${partInWords(pass)}`}</span>
              </span>
              <span className="small">
                {[pass.when, pass.on ? dayInWords(pass.on) : ''].filter(Boolean).join(', ') || <span className="quiet">no day yet</span>}
              </span>
              <span className="small">
                {figure(pass.all, system)}
                {pass.carrier ? ` in ${figure(pass.carrier, system)}` : ''}
              </span>
              <span className={classes.acts}>
                <button
                  type="button"
                  className="link-button small"
                  aria-pressed={selection.get('pass') === pass.key}
                  aria-label={`Show ${pass.product.product}${pass.dose.parts.length > 1 ? `, pass ${pass.part + 1}` : ''} on the plan`}
                  onClick={() => selection.set({ pass: pass.key })}
                >
                  On the plan
                </button>
                {refusal ? (
                  <span className="small quiet">sheet stopped</span>
                ) : (
                  <Link
                    to={`/trials/${trial.id}/${water ? 'water' : 'sheet'}?site=${site.key}${water ? '' : `&pass=${pass.key}`}`}
                    className="small"
                  >
                    {water ? 'Water plan to print' : 'Mixing sheet to print'}
                  </Link>
                )}
                {!refusal && laid && !water && (
                  <Link to={`/trials/${trial.id}/stakes?as=packets&site=${site.key}&pass=${pass.key}`} className="small">
                    Packets
                  </Link>
                )}
              </span>
              {first &&
                by.map(({ dose, stops, open }) => (
                  <div key={dose.key} style={{ gridColumn: '1 / -1' }}>
                    {stops.map((text) => (
                      <p key={text} className="caution small" role="alert">
                        {text}
                      </p>
                    ))}
                    <CommitText
                      label="Why this is right here all the same (stands on the sheet and in the report)"
                      value={dose.reason}
                      onCommit={(reason) => onReason(dose, reason)}
                    />
                    {dose.reason !== '' && open.length > 0 && (
                      <p className="caution small" role="alert">
                        Since this reason was recorded {open.length === stops.length ? 'all of this' : open.join(' ')} came up.{' '}
                        <button type="button" className="link-button" onClick={() => void onReason(dose, dose.reason)}>
                          It holds for this too
                        </button>
                      </p>
                    )}
                  </div>
                ))}
              <PassSheets trial={trial} site={site} pass={pass} stopped={refusal !== null} />
              <WentOut
                trial={trial}
                site={site}
                pass={pass}
                beside={<BeginSheet site={site} pass={pass} spreadable={trial.amounts.spreadable} onBegin={onBegin} />}
              />
            </div>
          </Fragment>
        )
      })}
    </section>
  )
}

/** Which level gets it, where it is one alone, and which of its passes it is. */
function partInWords({ product, dose, rows, part, alike }: Pass): string {
  const { named } = rows[0]!.recipient
  const level = rows.length === 1 && named && named.name.toLowerCase() !== product.product.toLowerCase() ? named.name : ''
  const turn = alike > 1 ? `${alike} passes alike` : dose.parts.length > 1 ? `pass ${part + 1} of ${dose.parts.length}` : ''
  return [level, turn].filter(Boolean).join(', ')
}
