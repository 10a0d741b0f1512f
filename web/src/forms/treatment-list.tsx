import { coefficientsOf } from '@canter/core/analysis'
import { costOfDropping } from '@canter/core/design'
import { holesOf, isInside, withCell, withList, type PlannedComparison, type Treatment, type Treatments } from '@canter/core/trial'
import { ActionIcon, Button, ColorPicker, Popover, Select } from '@mantine/core'
import { IconTrash } from '@tabler/icons-react'
import { useMemo, useState } from 'react'
import { swatchFill, treatmentColours } from '@canter/core/ground'
import { CommitText } from './commit-text.tsx'
import classes from './treatment-list.module.css'
import type { Commit } from './use-commit.ts'

const ROLES: readonly { value: Treatment['role']; label: string }[] = [
  { value: 'none', label: '–' },
  { value: 'untreated control', label: 'untreated control' },
  { value: 'standard', label: 'standard' },
  { value: 'yardstick', label: 'yardstick, no option' },
  { value: 'shown', label: 'only shown, beside' },
]

/** The sides that are being picked for a comparison. */
export interface Picking {
  readonly plus: readonly string[]
  readonly minus: readonly string[]
  readonly onPick: (key: string, side: 'plus' | 'minus' | 'none') => void
}

interface TreatmentListProps {
  readonly treatments: Treatments
  readonly fixed: boolean
  readonly onChange: Commit<Treatments>
  readonly picking: Picking | null
}

/** Letters under which comparisons stand in the head of the list. */
export const letterOf = (i: number): string =>
  i < 26 ? String.fromCharCode(97 + i) : `${letterOf(Math.floor(i / 26) - 1)}${letterOf(i % 26)}`
/** More comparisons than this do not fit beside the treatments. */
const MOST_COLUMNS = 8
/** More rows than this are shown when they are asked for, or when sides are picked on them. */
const MOST_SHOWN = 60

/** One row a treatment, a column a factor; combinations that were left out as holes, comparisons as + and − on the same rows. */
export function TreatmentList({ treatments, fixed, onChange, picking }: TreatmentListProps) {
  const [all, setAll] = useState(false)
  const { factors, list } = treatments
  const colours = treatmentColours(treatments)
  const holes = holesOf(treatments)
  const costs = useMemo(() => costsOf(treatments), [treatments])
  const shown = treatments.comparisons.slice(0, MOST_COLUMNS)
  const coefficients = shown.map((each) => coefficientsOf(each, treatments))
  const rows = inOrder(treatments, holes)
  const change = (key: string, patch: Partial<Treatment>) =>
    onChange({
      ...treatments,
      list: list.map((each) => {
        if (each.key === key) return { ...each, ...patch }
        // One untreated control at most: naming another takes it from the first.
        return patch.role === 'untreated control' && each.role === patch.role ? { ...each, role: 'none' as const } : each
      }),
    })
  return (
    <>
      <table className={`ruled ${classes.list}`} data-testid="treatments">
        <thead>
          <tr>
            <th>Treatment</th>
            {factors.map((factor) => (
              <th key={factor.key}>{factor.name || 'Level'}</th>
            ))}
            <th className={classes.part}>Part</th>
            {picking ? (
              <th>Set against</th>
            ) : (
              shown.map((each, i) => (
                <th key={each.key} className={classes.sign} title={each.name}>
                  {letterOf(i)}
                </th>
              ))
            )}
            <th className={classes.drop}>
              <span className="visually-hidden">Drop</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.slice(0, all || picking ? undefined : MOST_SHOWN).map(({ treatment, hole }) =>
            hole ? (
              <tr key={treatment.key} className={classes.hole}>
                <td>{treatment.code}</td>
                {factors.map((factor) => (
                  <td key={factor.key}>{levelName(factor, treatment)}</td>
                ))}
                <td colSpan={1 + (picking ? 1 : shown.length) + 1}>
                  left out{' '}
                  {!fixed && (
                    <button type="button" className="link-button" onClick={() => void onChange(withCell(treatments, treatment.levels))}>
                      put it in
                    </button>
                  )}
                </td>
              </tr>
            ) : (
              <tr key={treatment.key}>
                <td className={classes.code}>
                  <Swatch
                    treatment={treatment}
                    fill={swatchFill(colours.get(treatment.key))}
                    onChange={(colour) => change(treatment.key, { colour })}
                  />
                  {isInside(treatment, factors) ? (
                    treatment.code
                  ) : (
                    <OwnText
                      treatment={treatment}
                      field="code"
                      list={list}
                      className={classes.own}
                      onCommit={(code) => change(treatment.key, { code })}
                    />
                  )}
                </td>
                {isInside(treatment, factors) ? (
                  factors.map((factor) => <td key={factor.key}>{levelName(factor, treatment)}</td>)
                ) : (
                  <td colSpan={factors.length}>
                    <OwnText treatment={treatment} field="name" list={list} onCommit={(name) => change(treatment.key, { name })} />
                  </td>
                )}
                <td>
                  {fixed ? (
                    <span className="small">{treatment.role === 'none' ? '' : treatment.role}</span>
                  ) : (
                    <Select
                      size="xs"
                      aria-label={`Part of ${treatment.code}`}
                      data={ROLES}
                      value={treatment.role}
                      allowDeselect={false}
                      onChange={(role) => role && void change(treatment.key, { role: role })}
                    />
                  )}
                </td>
                {picking ? (
                  <td>
                    <SidePicker treatment={treatment} picking={picking} />
                  </td>
                ) : (
                  shown.map((each, i) => <Sign key={each.key} comparison={each} of={coefficients[i]!} treatment={treatment.key} />)
                )}
                <td>
                  {!fixed && list.length > 2 && (factors.length > 1 || !isInside(treatment, factors)) && (
                    <ActionIcon
                      variant="subtle"
                      c="var(--ink-soft)"
                      size="sm"
                      aria-label={`Drop ${treatment.code}`}
                      title="Drop it"
                      // Worked out when it is asked about: of some hundred combinations it takes a moment each.
                      onMouseEnter={({ currentTarget }) => (currentTarget.title = costs(treatment))}
                      onFocus={({ currentTarget }) => (currentTarget.title = costs(treatment))}
                      onClick={() =>
                        void onChange(
                          withList(
                            treatments,
                            list.filter((each) => each !== treatment),
                          ),
                        )
                      }
                    >
                      <IconTrash size={14} />
                    </ActionIcon>
                  )}
                </td>
              </tr>
            ),
          )}
        </tbody>
      </table>
      {!all && rows.length > MOST_SHOWN && (
        <button type="button" className="link-button small" onClick={() => setAll(true)} style={{ marginRight: 12 }}>
          Show all {rows.length}
        </button>
      )}
      {!fixed && (
        <Button size="compact-sm" variant="subtle" onClick={() => void onChange(withOutside(treatments))} mt={4}>
          Add a treatment outside these
        </Button>
      )}
    </>
  )
}

interface Row {
  readonly treatment: Treatment
  readonly hole: boolean
}

/** Treatments in their order, what was left out where it would stand. */
function inOrder({ factors, list }: Treatments, holes: readonly Treatment[]): Row[] {
  const rank = (each: Treatment): number =>
    factors.reduce((sum, factor) => sum * 1000 + factor.levels.findIndex((level) => level.key === each.levels[factor.key]), 0)
  const inside = [
    ...list.filter((each) => isInside(each, factors)).map((treatment) => ({ treatment, hole: false })),
    ...holes.map((treatment) => ({ treatment, hole: true })),
  ].sort((a, b) => rank(a.treatment) - rank(b.treatment))
  return [...inside, ...list.filter((each) => !isInside(each, factors)).map((treatment) => ({ treatment, hole: false }))]
}

function levelName(factor: Treatments['factors'][number], { levels }: Treatment): string {
  return factor.levels.find((level) => level.key === levels[factor.key])?.name ?? ''
}

/** What dropping a treatment costs, in words, worked out once for each that is asked about. */
function costsOf(treatments: Treatments): (treatment: Treatment) => string {
  const known = new Map<string, string>()
  return (treatment) => {
    const told = known.get(treatment.key) ?? dropInWords(treatments, treatment)
    known.set(treatment.key, told)
    return told
  }
}

function dropInWords(treatments: Treatments, treatment: Treatment): string {
  const costs = costOfDropping(treatments, treatment.key)
  return costs.length > 0 ? `Drop it. ${costs.join(' ')}` : 'Drop it: nothing else becomes harder to tell apart.'
}

function withOutside(treatments: Treatments): Treatments {
  const { list } = treatments
  const keys = new Set(list.map((each) => each.key))
  let n = 1
  while (keys.has(`outside-${n}`)) n++
  const control = list.every((each) => each.role !== 'untreated control')
  const made: Treatment = {
    key: `outside-${n}`,
    code: control ? 'NIL' : `CHK${n}`,
    name: control ? 'untreated' : `check ${n}`,
    colour: null,
    role: control ? 'untreated control' : 'standard',
    levels: {},
  }
  return { ...treatments, list: [...list, made] }
}

function OwnText({
  treatment,
  field,
  list,
  className,
  onCommit,
}: {
  treatment: Treatment
  field: 'code' | 'name'
  list: readonly Treatment[]
  className?: string
  onCommit: Commit<string>
}) {
  return (
    <CommitText
      size="xs"
      {...(className ? { className } : {})}
      aria-label={field === 'code' ? `Code of ${treatment.name}` : `Name of ${treatment.code}`}
      value={treatment[field]}
      onCommit={onCommit}
      check={(text) => {
        if (text === '') return field === 'code' ? 'Give a code.' : 'Name it.'
        return field === 'code' && list.some((each) => each !== treatment && each.code === text) ? 'Used already.' : null
      }}
    />
  )
}

/** The colour of a treatment; another one is chosen on it. */
function Swatch({ treatment, fill, onChange }: { treatment: Treatment; fill: string; onChange: (colour: string | null) => void }) {
  return (
    <Popover position="bottom-start" withArrow>
      <Popover.Target>
        <button
          type="button"
          className={`swatch ${classes.swatch}`}
          style={{ background: fill }}
          aria-label={`Colour of ${treatment.code}`}
        />
      </Popover.Target>
      <Popover.Dropdown>
        <ColorPicker
          format="hex"
          {...(treatment.colour ? { value: treatment.colour } : {})}
          onChangeEnd={(colour) => /^#[0-9a-f]{6}$/i.test(colour) && onChange(colour.toLowerCase())}
        />
        <button type="button" className="link-button" onClick={() => onChange(null)} style={{ marginTop: 6 }}>
          From the order of the treatments
        </button>
      </Popover.Dropdown>
    </Popover>
  )
}

/** What a treatment counts in a comparison: its sign to be seen, the figure on hover. */
function Sign({ comparison, of, treatment }: { comparison: PlannedComparison; of: Readonly<Record<string, number>>; treatment: string }) {
  const most = Math.max(...Object.values(of).map(Math.abs))
  const share = (of[treatment] ?? 0) / (most || 1)
  const text = Math.abs(share) < 1e-9 ? '' : comparison.of.kind === 'trend' ? signed(share) : share > 0 ? '+' : '−'
  return (
    <td className={classes.sign} title={text === '' ? undefined : `${comparison.name}: coefficient ${signed(of[treatment]!, 4)}`}>
      {text}
    </td>
  )
}

function signed(value: number, digits = 2): string {
  return `${value < 0 ? '−' : '+'}${Number(Math.abs(value).toPrecision(digits))}`
}

function SidePicker({ treatment, picking }: { treatment: Treatment; picking: Picking }) {
  const side = picking.plus.includes(treatment.key) ? 'plus' : picking.minus.includes(treatment.key) ? 'minus' : 'none'
  return (
    <span role="group" aria-label={`Side of ${treatment.code}`} className={classes.sides}>
      {(['plus', 'minus'] as const).map((each) => (
        <button
          key={each}
          type="button"
          aria-pressed={side === each}
          aria-label={`${treatment.code} on the ${each === 'plus' ? 'first' : 'second'} side`}
          onClick={() => picking.onPick(treatment.key, side === each ? 'none' : each)}
        >
          {each === 'plus' ? '+' : '−'}
        </button>
      ))}
    </span>
  )
}
