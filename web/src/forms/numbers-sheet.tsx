import { ROUND_NAMES } from '@canter/core/ground'
import { plural } from '@canter/core/quantity'
import { CORNERS, NUMBERINGS, ROUNDS, type Numbering, type Order, type Site, type Unit } from '@canter/core/trial'
import { Select, Switch } from '@mantine/core'
import type { Commit } from './use-commit.ts'
import { CommitText } from './commit-text.tsx'
import classes from './lie-sheet.module.css'

const SCHEMES: Readonly<Record<Numbering['scheme'], string>> = {
  'as designed': 'block and position, as the design counts',
  'block hundreds': 'a hundred for each block',
  'row and column': 'row, then column',
  running: 'running over the site',
}

const FIRST: Readonly<Record<Order['first'], string>> = {
  'as they lie': 'as they lie',
  'untreated first': 'untreated first',
  'low to high': 'from low to high',
}

/** The numbers on the stakes, and the order in which each round goes over the plots. */
export function NumbersSheet({
  site,
  picked,
  change,
}: {
  site: Site
  /** The unit picked on the plan: its number may be typed. */
  picked: Unit | null
  change: Commit<Readonly<Record<string, unknown>>>
}) {
  const { numbering, orders } = site.ground
  const put = (patch: Partial<Numbering>) => change({ 'ground.numbering': { ...numbering, ...patch } })
  const designed = picked && `${picked.kind} ${picked.counted ?? picked.code}`
  const typed = Object.keys(numbering.own).length
  return (
    <>
      <div className="fields">
        <Select
          className="half"
          label="Numbers on the stakes"
          data={NUMBERINGS.map((value) => ({ value, label: SCHEMES[value] }))}
          value={numbering.scheme}
          allowDeselect={false}
          onChange={(scheme) => scheme && void put({ scheme: scheme })}
        />
        {numbering.scheme !== 'as designed' && (
          <Select
            label="Counted from"
            data={[...CORNERS]}
            value={numbering.from}
            allowDeselect={false}
            onChange={(from) => from && void put({ from: from })}
          />
        )}
        {(numbering.scheme === 'running' || numbering.scheme === 'block hundreds') && (
          <Switch
            label="To and fro"
            checked={numbering.toAndFro}
            onChange={(event) => void put({ toAndFro: event.currentTarget.checked })}
          />
        )}
        <Switch
          label="Site as thousands"
          checked={numbering.siteThousands}
          onChange={(event) => void put({ siteThousands: event.currentTarget.checked })}
        />
        {picked && designed && (
          <CommitText
            label={`Number of ${picked.kind} ${picked.code}`}
            value={picked.code}
            check={(text) => (text === '' ? 'A stake needs a number.' : text.length > 20 ? 'At most 20 characters.' : null)}
            onCommit={(code) => put({ own: { ...numbering.own, [designed]: code } })}
          />
        )}
      </div>
      {typed > 0 && (
        <p className="small" style={{ margin: '4px 0' }}>
          {typed === 1 ? 'One number is typed by hand.' : `${typed} numbers are typed by hand.`}{' '}
          <button type="button" className="link-button" onClick={() => void put({ own: {} })}>
            Count them again
          </button>
        </p>
      )}
      <details>
        <summary className="small">In which order {plural(site.design.unit)} are walked, planted, treated and harvested</summary>
        {ROUNDS.map((round) => {
          const order = orders[round]
          const set = (patch: Partial<Order>) => change({ 'ground.orders': { ...orders, [round]: { ...order, ...patch } } })
          return (
            <div className={classes.round} key={round} role="group" aria-label={ROUND_NAMES[round]}>
              <Select
                label={`${ROUND_NAMES[round].charAt(0).toUpperCase()}${ROUND_NAMES[round].slice(1)}`}
                data={[
                  { value: 'rows', label: 'along the rows' },
                  { value: 'columns', label: 'along the columns' },
                ]}
                value={order.along}
                allowDeselect={false}
                onChange={(along) => along && void set({ along: along })}
              />
              <Select
                label="from"
                data={[{ value: 'nearest', label: 'the nearest corner' }, ...CORNERS.map((value) => ({ value, label: value }))]}
                value={order.from}
                allowDeselect={false}
                onChange={(from) => from && void set({ from: from })}
              />
              <Select
                label="over"
                data={[
                  { value: 'block', label: 'block by block' },
                  { value: 'site', label: 'the whole site' },
                ]}
                value={order.by}
                allowDeselect={false}
                onChange={(by) => by && void set({ by: by })}
              />
              {round === 'walk' ? (
                <span />
              ) : (
                <Select
                  label="treatments"
                  data={Object.entries(FIRST).map(([value, label]) => ({ value, label }))}
                  value={order.first}
                  allowDeselect={false}
                  onChange={(first) => first && void set({ first: first as Order['first'] })}
                />
              )}
              <Switch
                label="To and fro"
                checked={order.toAndFro}
                onChange={(event) => void set({ toAndFro: event.currentTarget.checked })}
              />
            </div>
          )
        })}
      </details>
    </>
  )
}
