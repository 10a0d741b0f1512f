import { roles, type Matched, type RoleKey, type Source } from '@canter/core/exchange'
import { Select, TextInput } from '@mantine/core'
import { memo } from 'react'
import classes from './import-columns.module.css'

interface ImportColumnsProps {
  readonly source: Source
  readonly matched: readonly Matched[]
  readonly onChange: (matched: readonly Matched[]) => void
}

const NAMED: ReadonlySet<RoleKey> = new Set(['factor', 'trait'])

/** Each column with what stands in it, and what it is taken for. */
export const ImportColumns = memo(function ImportColumns({ source, matched, onChange }: ImportColumnsProps) {
  const put = (at: number, more: Partial<Matched>): void =>
    onChange(
      matched.map((each, c) => {
        if (c === at) return { ...each, ...more }
        // What only one column can be goes from the one that was it.
        const role = roles.find((one) => one.key === more.role)
        return role && !role.several && each.role === role.key ? { ...each, role: 'nothing' } : each
      }),
    )
  return (
    <div className={classes.scroll} tabIndex={0} role="region" aria-label="Columns of the table">
      <table className="ruled">
        <thead>
          <tr>
            <th>Column</th>
            <th>In it</th>
            <th>Taken for</th>
            <th>Called</th>
            <th>Measure</th>
          </tr>
        </thead>
        <tbody>
          {source.columns.map((column, c) => {
            const { role, name, unit } = matched[c]!
            return (
              <tr key={column} data-quiet={role === 'nothing'}>
                <td>
                  <strong>{column}</strong>
                </td>
                <td className={`quiet small ${classes.sample}`}>{sampleOf(source, c)}</td>
                <td>
                  <Select
                    size="xs"
                    aria-label={`${column} is`}
                    allowDeselect={false}
                    data={roles.map((each) => ({ value: each.key, label: each.name }))}
                    value={role}
                    onChange={(value) => put(c, { role: value as RoleKey })}
                  />
                </td>
                <td>
                  {NAMED.has(role) && (
                    <TextInput
                      size="xs"
                      aria-label={`${column} is called`}
                      value={name}
                      maxLength={80}
                      onChange={(event) => put(c, { name: event.currentTarget.value })}
                    />
                  )}
                </td>
                <td className="quiet">{NAMED.has(role) ? unit : ''}</td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
  )
})

function sampleOf({ rows }: Source, c: number): string {
  const cells = [...new Set(rows.map((row) => row.cells[c]!).filter(Boolean))]
  return cells.length === 0 ? 'nothing' : `${cells.slice(0, 4).join(', ')}${cells.length > 4 ? ' …' : ''}`
}
