import { designOf, drawnInTwos, uneven, type PlanEfficiency } from '@canter/core/design'
import { layoutProblems } from '@canter/core/ground'
import { counted, formatFixed, plural } from '@canter/core/quantity'
import { Button, Group, Progress, TextInput } from '@mantine/core'
import { DRAW, treatmentsDealt } from '@canter/core/trial'
import { modals } from '@mantine/modals'
import { notifications } from '@mantine/notifications'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import { useEfficiency } from '../data/analysis.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { useSaving } from '../data/saving.ts'
import { useSelection } from '../data/selection.ts'
import { forgetSearch, useSearchProgress } from '../data/search-progress.ts'
import { endSearch, useRandomise } from '../data/trial-file.ts'
import { SwapForm } from './swap.tsx'

/** Nothing is said of plans in which nothing is given away. */
function efficiencyInWords({ average, concurrence }: PlanEfficiency): string {
  if (average > 1 - 1e-9) return ''
  const meet = concurrence ? ` ${meetingsInWords(concurrence)}` : ''
  if (average === 0) return 'Some treatments cannot be compared with others in this plan.'
  return `Comparisons have ${formatFixed(100 * average, 1)} % of the precision they would have in complete blocks with the same error.${meet}`
}

function meetingsInWords([least, most]: readonly [number, number]): string {
  const blocks = counted(most, 'block')
  if (least === most) return `Every two treatments meet in ${blocks}: it is balanced.`
  return least === 0 ? `Two treatments meet in ${blocks} at most.` : `Two treatments meet in ${least} to ${blocks}.`
}

/** A fair draw that may mislead all the same, said while another can be drawn. */
function Evenness() {
  const { trial, site, layout } = useOpenTrial()
  const found = useMemo(() => (layout ? uneven(layout, treatmentsDealt(trial.treatments, site)) : []), [layout, site, trial.treatments])
  const told = designOf(site.design.key)?.settings.filter((each) => each.kind === 'yes' && site.design.settings[each.key] === true) ?? []
  return (
    <div data-testid="evenness" style={{ marginTop: 8 }}>
      {told.map((each) => (
        <p key={each.key} className="small quiet" style={{ margin: '2px 0' }}>
          Drawn under a constraint: {each.name.charAt(0).toLowerCase() + each.name.slice(1)}.
        </p>
      ))}
      {found.length === 0 ? (
        <p className="small quiet" style={{ margin: '2px 0' }}>
          No treatment lies oddly: none gathers at a side, at the ends of rows or beside another more than chance would have it.
        </p>
      ) : (
        <>
          {found.slice(0, 3).map(({ text }) => (
            <p key={text} className="caution small">
              {text}
            </p>
          ))}
          <p className="small quiet" style={{ margin: '2px 0' }}>
            Chance draws so now and then. Before anything is planted another draw may be taken; both stay on record.
          </p>
        </>
      )}
    </div>
  )
}

/** An older version put two things in the same order in blocks 1 and 2: said of the plans it made. */
function DrawnInTwos({ planted }: { planted: boolean }) {
  const { layout } = useOpenTrial()
  const kinds = useMemo(() => (layout ? drawnInTwos(layout) : []), [layout])
  if (kinds.length === 0) return null
  return (
    <p className="caution small" data-testid="drawn-in-twos">
      An earlier version of Canter randomised this plan. Where only two {kinds.map((kind) => plural(kind)).join(' or ')} are randomised at a
      time, it put the first two pairs in the same order.{' '}
      {planted ? 'The ground is planted, so the plan stays: report it as restricted randomisation.' : 'Randomise again before planting.'}
    </p>
  )
}

/** The seed and the dealing out of treatments. */
export function Dealing() {
  const { trial, site, layout, fixed, units } = useOpenTrial()
  const selection = useSelection()
  const picked = units.get(selection.get('plot') ?? '')
  const { remember } = useSaving()
  const { mutate, isPending } = useRandomise(trial.id)
  const [seed, setSeed] = useState<string>('')
  const problems = layoutProblems(trial, site.key)
  const again = trial.sites.find((each) => each.key === site.again)
  const { data: efficiency } = useEfficiency({ trial }, layout)
  const typed = seed.trim() === '' ? null : Number(seed)
  const wrong = typed !== null && (!Number.isInteger(typed) || typed < 0 || typed > 2147483647)
  const searching = useSearchProgress(trial.id, site.key)
  // The seed of the plan that stands makes that plan again, by the draw that made it.
  const sameDraw = typed !== null && typed === layout?.structure.seed ? { draw: layout.structure.draw ?? 1 } : {}
  const deal = (): void => {
    forgetSearch(trial.id, site.key)
    mutate(
      { site: site.key, seed: typed ?? crypto.getRandomValues(new Uint32Array(1))[0]! % 1_000_000, ...sameDraw, reason: '' },
      {
        onSuccess: (file) => {
          remember(file)
          setSeed('')
        },
        onError: (error) => notifications.show({ color: 'red', title: 'Not randomised', message: error.message }),
      },
    )
  }
  const ask = (): void => {
    if (!layout) deal()
    else
      modals.openConfirmModal({
        title: 'Deal out anew?',
        children: `The plan of ${site.name} from seed ${layout.structure.seed ?? '–'} is replaced by another. Undo brings it back.`,
        labels: { confirm: 'Deal out anew', cancel: 'Leave it' },
        onConfirm: deal,
      })
  }
  return (
    <section className="section" aria-labelledby="chance">
      <h2 className="section-title" id="chance">
        Randomisation
      </h2>
      <p style={{ margin: '0 0 6px' }}>
        {again ? (
          layout ? (
            <>These are the plots of {again.name}, with what stands on them: nothing is dealt out anew.</>
          ) : (
            <>These will be the plots of {again.name}, with what stands on them.</>
          )
        ) : layout ? (
          <>
            {designOf(site.design.key)?.dealt}{' '}
            {layout.structure.seed !== null && (
              <>
                Seed <strong data-testid="seed">{layout.structure.seed}</strong>
                {(layout.structure.draw ?? 1) < DRAW && ' (earlier version)'}: the same seed makes the same plan again.
              </>
            )}{' '}
            {efficiency && <span data-testid="efficiency">{efficiencyInWords(efficiency)}</span>}
          </>
        ) : (
          'Nothing is dealt out yet. Chance, not choice, decides which plot gets what; the seed is kept so that the plan can be made again.'
        )}
      </p>
      {layout && !again && <DrawnInTwos planted={fixed} />}
      {again ? (
        !layout && (
          <Button onClick={deal} loading={isPending}>
            Take them over
          </Button>
        )
      ) : fixed ? (
        <p className="small quiet">
          Locked since it is planted or measured. A single plot that got something else is corrected below, on record.
        </p>
      ) : (
        <Group align="end" gap="md">
          <TextInput
            label="Seed (empty: drawn by chance)"
            value={seed}
            inputMode="numeric"
            w={190}
            error={wrong ? 'A whole number from 0 to 2147483647.' : null}
            onChange={(event) => setSeed(event.currentTarget.value)}
          />
          <Button onClick={ask} loading={isPending} disabled={problems.length > 0 || wrong}>
            {layout ? 'Randomise again' : 'Randomise and lay out'}
          </Button>
        </Group>
      )}
      {layout && (
        <p className="small" style={{ margin: '8px 0 0' }}>
          <Link to={`/trials/${trial.id}/stakes?site=${site.key}`}>Stakes and lists</Link>,{' '}
          <span className="quiet">labels, packets and a field book to print, in any order;</span>{' '}
          <Link to={`/trials/${trial.id}/plan?site=${site.key}`}>the plan on paper</Link>.
        </p>
      )}
      {layout && !fixed && !again && <Evenness />}
      {layout && !fixed && !again && picked && <SwapForm key={picked.id} unit={picked} onDealAnew={ask} />}
      {isPending && searching && (
        <div role="status" style={{ marginTop: 10, maxWidth: 460 }} data-testid="search">
          <Progress value={100 * searching.share} size="sm" aria-label="How far the search is" />
          <p className="small" style={{ margin: '4px 0' }}>
            Searching for the plan that compares best: {Math.round(100 * searching.share)} %, with{' '}
            {formatFixed(100 * searching.efficiency, 2)} % of the precision of complete blocks so far.{' '}
            <button type="button" className="link-button" onClick={() => void endSearch(trial.id, site.key)}>
              Take what it has
            </button>
          </p>
        </div>
      )}
      {problems.map((problem) => (
        <p key={problem} className="caution">
          {problem}
        </p>
      ))}
    </section>
  )
}
