import { emptyFactor, withFactors, type Factor, type Treatments, type TrialDraft } from '@canter/core/trial'
import { Button } from '@mantine/core'
import type { ReactNode } from 'react'
import type { Saved } from '../data/saving.ts'
import { TreatmentsAndComparisons } from './comparison-list.tsx'
import { FactorSheet } from './factor-sheet.tsx'
import { Identity } from './identity.tsx'
import { Lock } from './lock.tsx'
import { MixedUp } from './mixed-up.tsx'
import type { ChangeSection } from '../data/saving.ts'
import { TreatmentShapes } from './treatment-shapes.tsx'

interface TreatmentSheetProps {
  readonly draft: TrialDraft
  readonly change: ChangeSection
  readonly fixed: boolean
  readonly measured: boolean
  readonly problems?: ReadonlyMap<string, string> | undefined
  readonly standing?: ReactNode
}

/** What is varied, the treatments that come of it, and what is to be compared. */
export function TreatmentSheet({ draft, change, fixed, measured, problems, standing }: TreatmentSheetProps) {
  const { treatments } = draft
  const take = (next: Treatments) => change('treatments', { ...next })
  const vary = (factors: readonly Factor[]) => take(withFactors(treatments, factors))
  return (
    <section className="section" aria-labelledby="treatments">
      <h2 className="section-title" id="treatments">
        Treatments {fixed && <Lock what="The set of treatments stands on the ground; names can be changed with a reason." />}
      </h2>
      <Blinding blinded={treatments.blinded} onChange={(blinded) => change('treatments', { blinded })} />
      {!treatments.blinded && (
        <>
          {!fixed && (
            <TreatmentShapes
              begun={treatments.list.length > 0 || treatments.factors.some((factor) => factor.name !== '')}
              onBegin={(next) => void take(next)}
            />
          )}
          {treatments.factors.map((factor, i) => (
            <FactorSheet
              key={factor.key}
              factor={factor}
              index={i}
              of={treatments.factors.length}
              fixed={fixed}
              problems={problems}
              onChange={(next) => vary(treatments.factors.map((each) => (each === factor ? next : each)))}
              onRemove={() => void vary(treatments.factors.filter((each) => each !== factor))}
            />
          ))}
          {!fixed && treatments.factors.length < 4 && (
            <Button
              size="compact-sm"
              variant="outline"
              onClick={() =>
                void vary([
                  ...treatments.factors,
                  { ...emptyFactor(freeFactorKey(treatments.factors), 'kind'), name: 'Second thing', levels: [] },
                ])
              }
            >
              Vary something else too
            </Button>
          )}
          {problems?.get('treatments.list') && <p className="caution">{problems.get('treatments.list')}</p>}
          {treatments.list.length > 0 && (
            <>
              <MixedUp treatments={treatments} sites={draft.sites} fixed={fixed} onChange={take} />
              <TreatmentsAndComparisons treatments={treatments} fixed={fixed} measured={measured} onChange={take} />
            </>
          )}
        </>
      )}
      {fixed && !treatments.blinded && <Identity treatments={treatments} onChange={take} />}
      {fixed && standing}
    </section>
  )
}

/** Whether codes only are shown; opening it stays on record. */
function Blinding({ blinded, onChange }: { blinded: boolean; onChange: (blinded: boolean) => void | Promise<Saved> }) {
  return blinded ? (
    <div className="caution" data-testid="blinded">
      Blinded: everywhere else codes stand for the treatments, and the whole trial as a file holds what they mean. It is opened on the
      record.{' '}
      <button type="button" className="link-button" onClick={() => void onChange(false)}>
        Open it
      </button>
    </div>
  ) : (
    <p className="small" style={{ margin: '0 0 8px' }}>
      <button type="button" className="link-button" onClick={() => void onChange(true)}>
        Blind it
      </button>{' '}
      <span className="quiet">so that codes only are shown to whoever treats, walks and reads, until it is opened.</span>
    </p>
  )
}

function freeFactorKey(factors: readonly Factor[]): string {
  let n = 1
  while (factors.some((factor) => factor.key === `factor-${n}`)) n++
  return `factor-${n}`
}
