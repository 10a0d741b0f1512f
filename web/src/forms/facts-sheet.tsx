import { counted } from '@canter/core/quantity'
import type { Site } from '@canter/core/trial'
import { Button, Group, TextInput } from '@mantine/core'
import { useState } from 'react'
import { CommitText } from './commit-text.tsx'
import type { Commit } from './use-commit.ts'

/** What is known of the ground before anything is laid out on it. */
export function FactsSheet({ site, change }: { site: Site; change: Commit<Readonly<Record<string, unknown>>> }) {
  const { facts } = site
  const said = [facts.place, facts.history, facts.troubles].filter(Boolean).length + facts.crops.length + facts.soilTests.length
  const [test, setTest] = useState({ on: '', depth: '', found: '' })
  const [crop, setCrop] = useState({ season: '', crop: '' })
  return (
    <details>
      <summary className="small">What is known of this ground{said === 0 ? ': nothing yet' : `: ${counted(said, 'entry')}`}</summary>
      <div className="fields">
        <CommitText className="wide" label="Place" value={facts.place} onCommit={(place) => change({ 'facts.place': place })} />
        <CommitText
          className="wide"
          label="What it suffers from"
          placeholder="wet corner, track, run-on from above"
          value={facts.troubles}
          onCommit={(troubles) => change({ 'facts.troubles': troubles })}
        />
        <CommitText className="wide" label="History" value={facts.history} onCommit={(history) => change({ 'facts.history': history })} />
      </div>
      <table className="ruled" style={{ width: '100%' }}>
        <thead>
          <tr>
            <th>Soil test of</th>
            <th>Depth</th>
            <th>Found</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {facts.soilTests.map((each, i) => (
            <tr key={i}>
              <td>{each.on}</td>
              <td>{each.depth}</td>
              <td>{each.found}</td>
              <td>
                <button
                  type="button"
                  className="link-button small"
                  onClick={() => void change({ 'facts.soilTests': facts.soilTests.filter((_, at) => at !== i) })}
                >
                  Remove
                </button>
              </td>
            </tr>
          ))}
          <tr>
            <td>
              <TextInput
                type="date"
                aria-label="Day of the soil test"
                value={test.on}
                onChange={(event) => setTest({ ...test, on: event.currentTarget.value })}
              />
            </td>
            <td>
              <TextInput
                aria-label="Depth of the soil test"
                placeholder="0–30 cm"
                value={test.depth}
                onChange={(event) => setTest({ ...test, depth: event.currentTarget.value })}
              />
            </td>
            <td>
              <TextInput
                aria-label="What the soil test found"
                placeholder="pH 6.8, P 24 mg/kg"
                value={test.found}
                onChange={(event) => setTest({ ...test, found: event.currentTarget.value })}
              />
            </td>
            <td>
              <Button
                size="compact-sm"
                variant="subtle"
                disabled={test.on === '' || test.found.trim() === ''}
                onClick={() => {
                  const tests = [...facts.soilTests, { on: test.on, depth: test.depth.trim(), found: test.found.trim() }]
                  tests.sort((a, b) => (a.on < b.on ? -1 : 1))
                  setTest({ on: '', depth: '', found: '' })
                  void change({ 'facts.soilTests': tests })
                }}
              >
                Add
              </Button>
            </td>
          </tr>
        </tbody>
      </table>
      <Group gap="xs" align="end">
        <span className="small">
          {facts.crops.length === 0
            ? 'Previous crops are not stated.'
            : `Grew before: ${facts.crops.map((each) => `${each.crop} ${each.season}`).join(', ')}.`}
        </span>
        <TextInput
          aria-label="Year of a previous crop"
          placeholder="2025"
          w={70}
          value={crop.season}
          onChange={(event) => setCrop({ ...crop, season: event.currentTarget.value })}
        />
        <TextInput
          aria-label="Previous crop"
          placeholder="winter wheat"
          w={140}
          value={crop.crop}
          onChange={(event) => setCrop({ ...crop, crop: event.currentTarget.value })}
        />
        <Button
          size="compact-sm"
          variant="subtle"
          disabled={!/^(19|20|21)\d\d$/.test(crop.season) || crop.crop.trim() === ''}
          onClick={() => {
            const crops = [
              ...facts.crops.filter((each) => each.season !== Number(crop.season)),
              { season: Number(crop.season), crop: crop.crop.trim() },
            ]
            crops.sort((a, b) => a.season - b.season)
            setCrop({ season: '', crop: '' })
            void change({ 'facts.crops': crops })
          }}
        >
          Add
        </Button>
      </Group>
    </details>
  )
}
