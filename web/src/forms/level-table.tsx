import { formatPlain } from '@canter/core/quantity'
import type { Factor, Level } from '@canter/core/trial'
import { ActionIcon, Button, Radio } from '@mantine/core'
import { IconTrash } from '@tabler/icons-react'
import { CommitText } from './commit-text.tsx'
import { QuantityField } from './quantity-field.tsx'

interface LevelTableProps {
  readonly factor: Factor
  readonly fixed: boolean
  readonly problems: ReadonlyMap<string, string> | undefined
  readonly onChange: (factor: Factor) => void
}

/** The levels of a factor: code, amount or name, and which one is the control. */
export function LevelTable({ factor, fixed, problems, onChange }: LevelTableProps) {
  const rates = factor.unit !== ''
  const change = (i: number, patch: Partial<Level>): void =>
    onChange({ ...factor, levels: factor.levels.map((level, at) => (at === i ? { ...level, ...patch } : level)) })
  const add = (): void => {
    const used = new Set(factor.levels.map((level) => level.key))
    let number = factor.levels.length + 1
    while (used.has(`l${number}`)) number++
    const last = factor.levels.at(-1)?.amount ?? 0
    const step = last - (factor.levels.at(-2)?.amount ?? 0) || 40
    const amount = rates ? last + step : null
    onChange({ ...factor, levels: [...factor.levels, { key: `l${number}`, ...named(factor, amount, number), amount, control: false }] })
  }
  return (
    <>
      <table className="ruled" style={{ marginTop: 8 }}>
        <thead>
          <tr>
            <th style={{ width: 90 }}>Code</th>
            {rates && <th style={{ width: 150 }}>Rate</th>}
            <th>Name</th>
            <th style={{ width: 70 }}>Control</th>
            <th style={{ width: 30 }}>
              <span className="visually-hidden">Remove</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {factor.levels.map((level, i) => (
            <tr key={level.key}>
              <td>
                <CommitText
                  size="xs"
                  aria-label={`Code of level ${i + 1}`}
                  maxLength={8}
                  value={level.code}
                  error={problems?.get(`factors.0.levels.${i}.code`)}
                  onCommit={(code) => change(i, { code })}
                  check={(text) => codeProblem(factor, i, text)}
                />
              </td>
              {rates && (
                <td>
                  <QuantityField
                    size="xs"
                    aria-label={`Rate of level ${i + 1}`}
                    value={level.amount}
                    unit={factor.unit}
                    {...(factor.nutrient ? { of: factor.nutrient } : {})}
                    low={0}
                    high={5000}
                    disabled={fixed}
                    onCommit={(amount) => amount !== null && change(i, { amount, ...named(factor, amount, i + 1, i) })}
                  />
                </td>
              )}
              <td>
                <CommitText
                  size="xs"
                  aria-label={`Name of level ${i + 1}`}
                  value={level.name}
                  onCommit={(name) => change(i, { name })}
                  check={(text) => (text === '' ? 'Name it.' : null)}
                />
              </td>
              <td>
                <Radio
                  size="xs"
                  name="control"
                  aria-label={`${level.code} is the control`}
                  checked={level.control}
                  disabled={fixed}
                  onClick={() =>
                    onChange({
                      ...factor,
                      levels: factor.levels.map((each, at) => ({ ...each, control: at === i ? !level.control : false })),
                    })
                  }
                  onChange={() => undefined}
                />
              </td>
              <td>
                {!fixed && factor.levels.length > 2 && (
                  <ActionIcon
                    variant="subtle"
                    c="var(--ink-soft)"
                    size="sm"
                    aria-label={`Remove ${level.code}`}
                    onClick={() => onChange({ ...factor, levels: factor.levels.filter((_, at) => at !== i) })}
                  >
                    <IconTrash size={14} />
                  </ActionIcon>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {!fixed && (
        <Button size="compact-sm" variant="subtle" onClick={add} mt={4}>
          Add a level
        </Button>
      )}
    </>
  )
}

function codeProblem(factor: Factor, i: number, text: string): string | null {
  if (text === '') return 'Give a code.'
  if (factor.levels.some((level, at) => at !== i && level.code === text)) return 'Used already.'
  return null
}

/** Code and name that follow from a rate, kept apart from codes already used. */
function named(factor: Factor, amount: number | null, number: number, own = -1): Pick<Level, 'code' | 'name'> {
  if (amount === null) return { code: `T${number}`, name: `Treatment ${number}` }
  const plain = formatPlain(amount, 4)
  const code = `${factor.nutrient ?? 'R'}${plain}`.slice(0, 8)
  const taken = factor.levels.some((level, at) => at !== own && level.code === code)
  return {
    code: taken ? `${code.slice(0, 6)}b` : code,
    name: `${plain} ${factor.unit.replace(/^(\w+)/, factor.nutrient ? `$1 ${factor.nutrient}` : '$1')}`,
  }
}
