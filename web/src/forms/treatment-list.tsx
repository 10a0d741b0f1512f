import { isInside, type Treatment, type Treatments } from '@canter/core/trial'
import { ActionIcon, Button, ColorInput, Select } from '@mantine/core'
import { IconTrash } from '@tabler/icons-react'
import { swatchFill, treatmentColours } from '../plan/colours.ts'
import { CommitText } from './commit-text.tsx'
import type { Commit } from './use-commit.ts'

const ROLES = [
  { value: 'none', label: '–' },
  { value: 'untreated control', label: 'untreated control' },
  { value: 'standard', label: 'standard' },
]

/** Every treatment with its code, its part in the trial, and how to drop it or set another outside the combinations. */
export function TreatmentList({ treatments, fixed, onChange }: { treatments: Treatments; fixed: boolean; onChange: Commit<Treatments> }) {
  const { factors, list } = treatments
  const colours = treatmentColours(treatments)
  const several = factors.length > 1
  const change = (key: string, patch: Partial<Treatment>) =>
    onChange({
      factors,
      list: list.map((each) => {
        if (each.key === key) return { ...each, ...patch }
        // One untreated control at most: naming another takes it from the first.
        return patch.role === 'untreated control' && each.role === patch.role ? { ...each, role: 'none' as const } : each
      }),
    })
  const addOutside = () => {
    const keys = new Set(list.map((each) => each.key))
    let n = 1
    while (keys.has(`outside-${n}`)) n++
    const control = list.every((each) => each.role !== 'untreated control')
    const name = control ? 'untreated' : `check ${n}`
    return onChange({
      factors,
      list: [
        ...list,
        {
          key: `outside-${n}`,
          code: control ? 'NIL' : `CHK${n}`,
          name,
          colour: null,
          role: control ? 'untreated control' : 'standard',
          levels: {},
        },
      ],
    })
  }
  return (
    <>
      <table className="ruled" style={{ marginTop: 8 }} data-testid="treatments">
        <thead>
          <tr>
            <th style={{ width: 130 }}>Treatment</th>
            <th>Name</th>
            <th style={{ width: 170 }}>Part</th>
            <th style={{ width: 60 }}>Colour</th>
            <th style={{ width: 30 }}>
              <span className="visually-hidden">Drop</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {list.map((treatment) => {
            const inside = isInside(treatment, factors)
            const removable = !fixed && list.length > 2 && (several || !inside)
            return (
              <tr key={treatment.key}>
                <td style={{ whiteSpace: 'nowrap' }}>
                  <span className="swatch" style={{ background: swatchFill(colours.get(treatment.key)) }} />
                  {inside ? (
                    treatment.code
                  ) : (
                    <CommitText
                      size="xs"
                      style={{ display: 'inline-block', width: 80 }}
                      aria-label={`Code of ${treatment.name}`}
                      value={treatment.code}
                      onCommit={(code) => change(treatment.key, { code })}
                      check={(text) =>
                        text === ''
                          ? 'Give a code.'
                          : list.some((each) => each !== treatment && each.code === text)
                            ? 'Used already.'
                            : null
                      }
                    />
                  )}
                </td>
                <td>
                  {inside ? (
                    treatment.name
                  ) : (
                    <CommitText
                      size="xs"
                      aria-label={`Name of ${treatment.code}`}
                      value={treatment.name}
                      onCommit={(name) => change(treatment.key, { name })}
                      check={(text) => (text === '' ? 'Name it.' : null)}
                    />
                  )}
                </td>
                <td>
                  <Select
                    size="xs"
                    aria-label={`Part of ${treatment.code}`}
                    data={ROLES}
                    value={treatment.role}
                    disabled={fixed}
                    allowDeselect={false}
                    onChange={(role) => role && void change(treatment.key, { role: role as Treatment['role'] })}
                  />
                </td>
                <td>
                  <ColorInput
                    size="xs"
                    aria-label={`Colour of ${treatment.code}`}
                    placeholder="auto"
                    withEyeDropper={false}
                    value={treatment.colour ?? ''}
                    onChangeEnd={(colour) =>
                      void change(treatment.key, { colour: /^#[0-9a-f]{6}$/i.test(colour) ? colour.toLowerCase() : null })
                    }
                  />
                </td>
                <td>
                  {removable && (
                    <ActionIcon
                      variant="subtle"
                      c="var(--ink-soft)"
                      size="sm"
                      aria-label={`Drop ${treatment.code}`}
                      onClick={() => void onChange({ factors, list: list.filter((each) => each !== treatment) })}
                    >
                      <IconTrash size={14} />
                    </ActionIcon>
                  )}
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
      {!fixed && (
        <Button size="compact-sm" variant="subtle" onClick={() => void addOutside()} mt={4}>
          Add a treatment outside these
        </Button>
      )}
    </>
  )
}
