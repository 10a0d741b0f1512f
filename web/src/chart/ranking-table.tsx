import { rankedIn, siteInSeason, type Decision, type Ranked, type SiteRanking } from '@canter/core/decision'
import { formatNumber, shown, shownUnit, type UnitSystem } from '@canter/core/quantity'
import type { Trial } from '@canter/core/trial'
import { swatchFill, treatmentColours } from '@canter/core/ground'
import classes from './ranking-table.module.css'

/** What each treatment returns net over all sites and at each, the best of each column marked; best over all first. */
export function RankingTable({
  decision,
  sites,
  trial: { treatments, question },
  currency,
  system,
}: {
  decision: Decision
  sites: readonly SiteRanking[]
  trial: Pick<Trial, 'treatments' | 'question'>
  currency: string
  system: UnitSystem
}) {
  const colours = treatmentColours(treatments)
  const all = rankedIn(decision)
  const rows = [...decision.returns].sort((a, b) => b.net - a.net)
  const perArea = `${currency}${shownUnit('money/ha', system).slice('money'.length)}`
  const money = (value: number): string => formatNumber(shown(value, 'money/ha', system).value, 3)
  const seasons = new Set(sites.map(({ site }) => site.season ?? question.season))
  return (
    <section className="section" aria-labelledby="ranking">
      <h2 className="section-title" id="ranking">
        At each site
      </h2>
      <div style={{ overflowX: 'auto' }}>
        <table className={`ruled ${classes.ranking}`} data-testid="rankings">
          <thead>
            <tr>
              <th>Net, {perArea}</th>
              <th className="number">All {sites.length} sites</th>
              {sites.map(({ site }) => (
                <th key={site.key} className="number">
                  {seasons.size > 1 ? siteInSeason(site, question.season) : site.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ treatment }) => (
              <tr key={treatment.key}>
                <td style={{ whiteSpace: 'nowrap' }}>
                  <span className="swatch" style={{ background: swatchFill(colours.get(treatment.key)) }} />
                  {treatment.code}
                </td>
                <Place of={all.get(treatment.key)} money={money} />
                {sites.map(({ site, ranked }) => (
                  <Place key={site.key} of={ranked.get(treatment.key)} money={money} />
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {sites.flatMap(({ site, problem }) =>
        problem === null
          ? []
          : [
              <p key={site.key} className="caution small">
                {site.name}: {problem}
              </p>,
            ],
      )}
      <p className="small quiet">
        The small figure is the place in the order. Bold: returned most there; ≈: not told from it. Each site is judged by its own plots, so
        less sharply than all together.
      </p>
    </section>
  )
}

function Place({ of, money }: { of: Ranked | undefined; money: (value: number) => string }) {
  if (!of) return <td className="number quiet">–</td>
  return (
    <td className="number">
      <span className={of.rank === 1 ? classes.best : undefined}>{money(of.net)}</span>
      <span className={classes.rank} title={of.close ? 'not told from the best' : undefined}>
        {of.rank ?? ''}
        {of.close ? ' ≈' : ''}
      </span>
    </td>
  )
}
