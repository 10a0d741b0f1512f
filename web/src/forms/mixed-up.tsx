import { mixedUp } from '@canter/core/design'
import { withCell, type TrialDraft, type Treatments } from '@canter/core/trial'
import type { Commit } from './use-commit.ts'

/** What cannot be told apart, said while it can still be mended, with the act that would. */
export function MixedUp({
  treatments,
  sites,
  fixed,
  onChange,
}: Pick<TrialDraft, 'treatments' | 'sites'> & { fixed: boolean; onChange: Commit<Treatments> }) {
  const found = mixedUp(treatments, sites)
  if (found.length === 0) return null
  return (
    <div data-testid="mixed-up" style={{ marginTop: 8 }}>
      {found.slice(0, 6).map(({ text, missing }) => (
        <p key={text} className="caution small">
          {text}{' '}
          {missing && !fixed && (
            <button type="button" className="link-button" onClick={() => void onChange(withCell(treatments, missing.levels))}>
              Add {missing.name}
            </button>
          )}
        </p>
      ))}
      {found.length > 6 && <p className="small quiet">and {found.length - 6} more of this kind.</p>}
    </div>
  )
}
