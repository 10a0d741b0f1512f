import { calculationOf, workedSheet, worksheetsFor, type Pass, type PassWorksheet } from '@canter/core/amounts'
import { figure, formatPlain } from '@canter/core/quantity'
import type { Site, Trial } from '@canter/core/trial'
import { Menu } from '@mantine/core'
import { Fragment } from 'react'
import { Link } from 'react-router'
import { usePerson } from '../data/queries.ts'

interface PassSheetsProps {
  readonly trial: Trial
  readonly site: Site
  readonly pass: Pass
  readonly stopped: boolean
}

/** Calibrations and other worksheets of a pass that are kept. */
export function PassSheets({ trial, site, pass, stopped }: PassSheetsProps) {
  const { units: system } = usePerson()
  const within = (part: number): boolean => part >= pass.part && part < pass.part + pass.alike
  const kept = (trial.amounts.sheets ?? []).filter((each) => each.site === site.key && pass.doses.some(({ key }) => key === each.pass?.dose) && within(each.pass!.part)) // prettier-ignore
  if (kept.length === 0) return null
  return (
    <div style={{ gridColumn: '1 / -1' }} className="small">
      {kept.map((sheet) => {
        const worked = workedSheet(sheet)
        const figures = worked?.reckoned.ok ? worked.reckoned.figures : {}
        const share = calculationOf(sheet.calculation)?.share?.(figures) ?? null
        const [first] = Object.values(figures)
        return (
          <p key={sheet.key} style={{ margin: '2px 0' }} data-testid="pass-sheet">
            {sheet.title}
            {sheet.on ? `, ${sheet.on}` : ''}:{' '}
            {share !== null ? (
              <>
                <strong>{formatPlain(share, 4)} %</strong> of what is wanted goes out
              </>
            ) : first ? (
              <>
                {first.label.toLowerCase()} <strong>{figure(first, system)}</strong>
              </>
            ) : (
              'cannot be worked out yet'
            )}{' '}
            {stopped ? (
              <span className="quiet">sheet stopped</span>
            ) : (
              <Link to={`/trials/${trial.id}/worksheet?sheet=${sheet.key}`}>Print</Link>
            )}
          </p>
        )
      })}
    </div>
  )
}

interface BeginSheetProps {
  readonly site: Site
  readonly pass: Pass
  readonly spreadable: Trial['amounts']['spreadable']
  readonly onBegin: (sheet: PassWorksheet) => void
}

/** What can be calibrated or worked out for a pass, begun with the figures of it that are known. */
export function BeginSheet({ site, pass, spreadable, onBegin }: BeginSheetProps) {
  const { units: system } = usePerson()
  const offered = worksheetsFor(pass, site, system, spreadable)
  if (offered.length === 0) return null
  const groups = [...new Set(offered.map((each) => each.calculation))].map((calculation) => [calculation, offered.filter((each) => each.calculation === calculation)] as const) // prettier-ignore
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <button type="button" className="link-button small">
          Calibrate, or work out for this pass
        </button>
      </Menu.Target>
      <Menu.Dropdown style={{ maxHeight: 320, overflowY: 'auto' }}>
        {groups.map(([calculation, own]) => (
          <Fragment key={calculation.key}>
            <Menu.Label>{calculation.name}</Menu.Label>
            {own.map((each) => (
              <Menu.Item key={each.pass.level ?? ''} onClick={() => onBegin(each)}>
                {each.level ?? `for ${pass.product.product}`}
              </Menu.Item>
            ))}
          </Fragment>
        ))}
      </Menu.Dropdown>
    </Menu>
  )
}
