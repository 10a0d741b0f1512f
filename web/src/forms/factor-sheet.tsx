import {
  emptyFactor,
  factorKind,
  factorKinds,
  hasGivenName,
  levelsFromText,
  nameAmount,
  Nutrient,
  nutrientName,
  nutrientOf,
  type Factor,
  type Level,
} from '@canter/core/trial'
import { formatPlain, shown, shownUnit } from '@canter/core/quantity'
import { ActionIcon, Button, Select } from '@mantine/core'
import { IconTrash } from '@tabler/icons-react'
import { useState } from 'react'
import { usePerson } from '../data/queries.ts'
import { CommitText } from './commit-text.tsx'
import { QuantityField } from './quantity-field.tsx'
import type { Commit } from './use-commit.ts'

interface FactorSheetProps {
  readonly factor: Factor
  /** Its place among those varied, and how many there are. */
  readonly index: number
  readonly of: number
  readonly fixed: boolean
  readonly problems: ReadonlyMap<string, string> | undefined
  readonly onChange: Commit<Factor>
  readonly onRemove: () => void
}

/** Nutrients, then whatever else rates are of. */
const OF = [
  ...Nutrient.options.map((each) => ({ value: each, label: `${nutrientName(each)} (${each})` })),
  { value: 'product', label: 'a product' },
  { value: 'active ingredient', label: 'an active ingredient' },
  { value: '', label: 'nothing named (water, seed)' },
]

/** One thing that is varied: what it is, and its levels typed in one line or mended one by one. */
export function FactorSheet({ factor, index, of, fixed, problems, onChange, onRemove }: FactorSheetProps) {
  const { units } = usePerson()
  const kind = factorKind(factor.kind)
  const at = `treatments.factors.${index}`
  const ordinal = of > 1 ? ` ${index + 1}` : ''
  const typed = factor.levels
    .map((level) => (factor.measure ? formatPlain(shown(level.amount ?? 0, factor.measure, units).value, 5) : level.name))
    .join(factor.measure ? ' ' : ', ')
  const measure = shownUnit(factor.measure, units)
  return (
    <div style={{ marginBottom: 14 }}>
      <div className="fields">
        <Select
          label={`What is varied${ordinal}`}
          className="half"
          title={kind.about}
          data={factorKinds.map((each) => ({ value: each.key, label: each.name }))}
          value={factor.kind}
          disabled={fixed}
          allowDeselect={false}
          onChange={(value) => value && value !== factor.kind && void onChange(emptyFactor(factor.key, value))}
        />
        {factor.kind === 'rate' && (
          <Select
            label={`Rates of${ordinal}`}
            placeholder="of what?"
            data={OF}
            value={nutrientOf(factor) ?? factor.of?.what ?? (factor.levels.length > 0 || factor.name ? '' : null)}
            disabled={fixed}
            allowDeselect={false}
            onChange={(value) => value !== null && void onChange(ofWhat(factor, value))}
          />
        )}
        {kind.amounts !== 'never' && (
          <Select
            label={`Measured in${ordinal}`}
            data={[
              ...(kind.amounts === 'sometimes' ? [{ value: '', label: 'names, no amounts' }] : []),
              ...kind.measures.map((each) => ({ value: each, label: shownUnit(each, units) })),
            ]}
            value={factor.measure}
            disabled={fixed}
            allowDeselect={false}
            onChange={(value) => value !== null && value !== factor.measure && void onChange({ ...factor, measure: value, levels: [] })}
          />
        )}
        <CommitText
          className="half"
          label={`Called${ordinal}`}
          placeholder={kind.example.factor}
          value={factor.name}
          error={problems?.get(`${at}.name`)}
          onCommit={(name) => onChange({ ...factor, name })}
          check={(text) => (text === '' ? 'Name what is varied.' : null)}
        />
        {factor.kind === 'timing' && factor.measure !== '' && (
          <CommitText
            className="half"
            label={`Counted from${ordinal}`}
            placeholder="emergence"
            value={factor.after ?? ''}
            onCommit={(after) => onChange(renamed(withAfter(factor, after)))}
          />
        )}
        {factor.of && factor.of.what !== 'nutrient' && (
          <CommitText
            label={factor.of.what === 'product' ? 'Which product' : 'Which active ingredient'}
            value={factor.of.name}
            error={problems?.get(`${at}.of.name`)}
            onCommit={(name) => onChange({ ...factor, of: { what: factor.of!.what as 'product', name } })}
            check={(text) => (text === '' ? 'Name it.' : null)}
          />
        )}
        <CommitText
          className="wide"
          label={`Levels${ordinal}${measure ? `, ${measure}` : ''}`}
          placeholder={factor.measure ? 'for example 0 60 120' : `for example ${kind.example.levels.join(', ')}`}
          value={typed}
          disabled={fixed}
          error={problems?.get(`${at}.levels`)}
          onCommit={(text) => {
            const read = levelsFromText(factor, text, units)
            return read.ok ? onChange({ ...factor, levels: read.levels }) : undefined
          }}
          check={(text) => {
            const read = levelsFromText(factor, text, units)
            return read.ok ? null : read.problem
          }}
        />
      </div>
      {factor.levels.length > 0 && <LevelTable factor={factor} fixed={fixed} problems={problems} at={at} onChange={onChange} />}
      {of > 1 && !fixed && (
        <Button size="compact-sm" variant="subtle" onClick={onRemove} mt={4}>
          No longer vary {factor.name || 'this'}
        </Button>
      )}
    </div>
  )
}

function withAfter({ after: _, ...factor }: Factor, after: string): Factor {
  return after === '' ? factor : { ...factor, after }
}

/** Levels under the names that follow from their amounts. */
function renamed(factor: Factor): Factor {
  const codes = new Set<string>()
  return {
    ...factor,
    levels: factor.levels.map((level): Level => {
      const named = nameAmount(factor, level.amount ?? 0, codes)
      codes.add(named.code)
      return { ...level, ...named }
    }),
  }
}

/** What rates are of names the factor and its levels, as long as nobody has named them otherwise. */
function ofWhat(factor: Factor, value: string): Factor {
  const nutrient = Nutrient.safeParse(value)
  if (nutrient.success) {
    const next: Factor = {
      ...factor,
      of: { what: 'nutrient', nutrient: nutrient.data },
      measure: 'kg/ha',
      name: hasGivenName(factor) ? nutrientName(nutrient.data) : factor.name,
    }
    if (factor.measure !== 'kg/ha') return { ...next, levels: [] }
    return renamed(next)
  }
  const of =
    value === ''
      ? null
      : {
          what: value as 'product' | 'active ingredient',
          name: factor.of && factor.of.what !== 'nutrient' ? factor.of.name : 'to be named',
        }
  return { ...factor, of, name: hasGivenName(factor) ? '' : factor.name }
}

/** More rows than this are shown when they are asked for. */
const MOST_SHOWN = 30

/** Codes, amounts and names of the levels, each to be mended by itself. */
function LevelTable({
  factor,
  fixed,
  problems,
  at,
  onChange,
}: Pick<FactorSheetProps, 'factor' | 'fixed' | 'problems' | 'onChange'> & { at: string }) {
  const change = (i: number, patch: Partial<Level>) =>
    onChange({ ...factor, levels: factor.levels.map((level, place) => (place === i ? { ...level, ...patch } : level)) })
  const [asked, setAsked] = useState(false)
  const [all, setAll] = useState(false)
  const seconds = asked || factor.levels.some((level) => level.second !== undefined)
  return (
    <>
      <table className="ruled" style={{ marginTop: 6 }} aria-label={`Levels of ${factor.name || 'what is varied'}`}>
        <thead>
          <tr>
            <th style={{ width: 100 }}>Code</th>
            {factor.measure && <th style={{ width: 150 }}>{factor.kind === 'timing' ? 'When' : 'Rate'}</th>}
            <th>Name</th>
            {seconds && <th>Also called</th>}
            {factor.classes !== undefined && (
              <th>
                <CommitText
                  size="xs"
                  aria-label={`What the classes of ${factor.name} are`}
                  placeholder="root form"
                  value={factor.classes}
                  onCommit={(classes) => onChange(classes === '' ? withoutClasses(factor) : { ...factor, classes })}
                />
              </th>
            )}
            <th style={{ width: 30 }}>
              <span className="visually-hidden">Remove</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {factor.levels.slice(0, all ? undefined : MOST_SHOWN).map((level, i) => (
            <tr key={level.key}>
              <td>
                <CommitText
                  size="xs"
                  aria-label={`Code of level ${i + 1} of ${factor.name}`}
                  maxLength={8}
                  value={level.code}
                  error={problems?.get(`${at}.levels.${i}.code`)}
                  onCommit={(code) => change(i, { code })}
                  check={(text) => codeProblem(factor, i, text)}
                />
              </td>
              {factor.measure && (
                <td>
                  <QuantityField
                    size="xs"
                    aria-label={`Rate of level ${i + 1} of ${factor.name}`}
                    value={level.amount}
                    unit={factor.measure}
                    {...(nutrientOf(factor) ? { of: nutrientOf(factor)! } : {})}
                    low={0}
                    disabled={fixed}
                    onCommit={(amount) => {
                      const others = new Set(factor.levels.flatMap((each, place) => (place === i ? [] : [each.code])))
                      return amount === null ? undefined : change(i, { amount, ...nameAmount(factor, amount, others) })
                    }}
                  />
                </td>
              )}
              <td>
                <CommitText
                  size="xs"
                  aria-label={`Name of level ${i + 1} of ${factor.name}`}
                  value={level.name}
                  onCommit={(name) => change(i, { name })}
                  check={(text) => (text === '' ? 'Name it.' : null)}
                />
              </td>
              {seconds && (
                <td>
                  <CommitText
                    size="xs"
                    aria-label={`Second name of level ${i + 1} of ${factor.name}`}
                    value={level.second ?? ''}
                    onCommit={(second) => onChange(withLevel(factor, i, 'second', second))}
                  />
                </td>
              )}
              {factor.classes !== undefined && (
                <td>
                  <CommitText
                    size="xs"
                    aria-label={`Class of level ${i + 1} of ${factor.name}`}
                    value={level.class ?? ''}
                    onCommit={(member) => onChange(withLevel(factor, i, 'class', member))}
                  />
                </td>
              )}
              <td>
                {!fixed && factor.levels.length > 2 && (
                  <ActionIcon
                    variant="subtle"
                    c="var(--ink-soft)"
                    size="sm"
                    aria-label={`Remove ${level.code}`}
                    onClick={() => void onChange({ ...factor, levels: factor.levels.filter((_, place) => place !== i) })}
                  >
                    <IconTrash size={14} />
                  </ActionIcon>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="small" style={{ margin: '2px 0 0', display: 'flex', gap: 14 }}>
        {!all && factor.levels.length > MOST_SHOWN && (
          <button type="button" className="link-button" onClick={() => setAll(true)}>
            Show all {factor.levels.length}
          </button>
        )}
        {!seconds && (
          <button type="button" className="link-button" onClick={() => setAsked(true)}>
            They have second names
          </button>
        )}
        {factor.classes === undefined && factor.measure === '' && !fixed && (
          <button type="button" className="link-button" onClick={() => void onChange({ ...factor, classes: 'class' })}>
            They are members of classes
          </button>
        )}
      </p>
    </>
  )
}

/** A text of a level that may be missing: an empty one is left out. */
function withLevel(factor: Factor, i: number, field: 'second' | 'class', text: string): Factor {
  return {
    ...factor,
    levels: factor.levels.map((level, place): Level => {
      if (place !== i) return level
      const { [field]: _, ...rest } = level
      return text === '' ? rest : { ...rest, [field]: text }
    }),
  }
}

function withoutClasses({ classes: _, ...factor }: Factor): Factor {
  return { ...factor, levels: factor.levels.map(({ class: __, ...level }) => level) }
}

function codeProblem(factor: Factor, i: number, text: string): string | null {
  if (text === '') return 'Give a code.'
  if (factor.levels.some((level, at) => at !== i && level.code === text)) return 'Used already.'
  return null
}
