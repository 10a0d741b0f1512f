import { termInWords, type Analysis, type MixedParameter, type School } from '@canter/core/analysis'
import { formatNumber, formatP, plural, shown, shownUnit, type UnitSystem } from '@canter/core/quantity'
import type { Treatments } from '@canter/core/trial'

interface TableProps {
  readonly analysis: Analysis
  readonly treatments: Treatments
  readonly system: UnitSystem
}

/** What differs by chance in a mixed model, each with its standard error, and how well the model fits. */
export function ChanceTable({ analysis, treatments, system }: TableProps) {
  const { mixed } = analysis
  if (!mixed) return null
  const factor = analysis.scale ? 1 : shown(1, analysis.trait.unit, system).value
  const unit = analysis.scale ? '' : shownUnit(analysis.trait.unit, system)
  const isVariance = (kind: MixedParameter['kind']): boolean => kind === 'variance' || kind === 'covariance'
  const out = (value: number, { kind }: MixedParameter): string => formatNumber(isVariance(kind) ? value * factor ** 2 : value, 3)
  const tested = mixed.parameters.some((each) => each.test)
  return (
    <table className="ruled" data-testid="chance">
      <thead>
        <tr>
          <th>By chance</th>
          <th />
          <th className="number">Estimate</th>
          <th className="number">s.e.</th>
          {tested && <th className="number">p of none</th>}
        </tr>
      </thead>
      <tbody>
        {mixed.parameters.map((each) => (
          <tr key={`${each.of} ${each.name}`}>
            <td>{chanceName(each, analysis, treatments)}</td>
            <td className="quiet">{each.kind}</td>
            <td className="number">{each.atBound ? '0' : out(each.value, each)}</td>
            <td className="number">{each.atBound ? 'at zero' : out(each.se, each)}</td>
            {tested && <td className="number">{each.test && !each.atBound ? formatP(each.test.p) : ''}</td>}
          </tr>
        ))}
      </tbody>
      <tfoot>
        <tr>
          <td colSpan={tested ? 5 : 4} className="small quiet">
            {unit && unit !== 'score' ? `Variances in (${unit})². ` : ''}
            {mixed.likelihood === 'REML' ? 'Restricted' : 'Full'} likelihood: −2 log {formatNumber(mixed.minusTwoLogLikelihood, 5)}, AIC{' '}
            {formatNumber(mixed.aic, 5)}, BIC {formatNumber(mixed.bic, 5)}
          </td>
        </tr>
      </tfoot>
    </table>
  )
}

function chanceName({ name, of }: MixedParameter, { unit }: Analysis, treatments: Treatments): string {
  if (of === 'residual' || (of === 'errors' && name === 'residual')) return plural(unit)
  if (of === 'errors') return name
  return name.includes(':') ? termInWords(treatments, name) : plural(name)
}

/** Ways in which errors over dates or ground may go together, least AIC first. */
export function ModelsTable({ analysis: { mixed } }: Pick<TableProps, 'analysis'>) {
  if (!mixed || mixed.models.length === 0) return null
  return (
    <table className="ruled" data-testid="models">
      <thead>
        <tr>
          <th>How errors go together</th>
          <th className="number">Parameters</th>
          <th className="number">AIC</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {mixed.models.map((each) => (
          <tr key={each.key}>
            <td>{each.name}</td>
            <td className="number">{each.parameters}</td>
            <td className="number">{each.aic.toFixed(1)}</td>
            <td>{each.used ? 'used' : ''}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

const QUESTIONS: Readonly<Record<School['question'], string>> = { blocks: 'Blocks', sites: 'Sites', ground: 'Ground' }

/** Where practitioners differ: what was taken and why, and what the other way would change. */
export function SchoolsList({
  schools,
  other,
  onOther,
}: {
  schools: readonly School[]
  /** The question that is answered the other way on this page. */
  other: School['question'] | null
  onOther: (question: School['question'] | null) => void
}) {
  return (
    <dl data-testid="schools" style={{ margin: 0, display: 'grid', gap: 8 }}>
      {schools.map(({ question, taken, because, sentence, changes }) => (
        <div key={question}>
          <dt className="small">
            <strong>{QUESTIONS[question]}</strong>{' '}
            <span className="quiet">
              taken here: {taken}, since {because}.
            </span>
          </dt>
          <dd style={{ margin: 0, fontWeight: changes ? 500 : 400 }}>
            {sentence}{' '}
            <button
              type="button"
              className="link-button small"
              aria-pressed={other === question}
              onClick={() => onOther(other === question ? null : question)}
            >
              {other === question ? 'Back to how it was taken' : 'Show it this way'}
            </button>
          </dd>
        </div>
      ))}
    </dl>
  )
}

/** How treatments go along with the sites. */
export function StabilityTable({
  analysis,
  term,
  treatments,
  system,
  nameOf,
}: TableProps & { term: string; nameOf: (level: string) => string }) {
  const found = analysis.stability[term]
  if (!found) return null
  const factor = analysis.scale ? 1 : shown(1, analysis.trait.unit, system).value
  const { entries, agreement, interactionAxes } = found
  const [first, second] = interactionAxes
  return (
    <table className="ruled" data-testid="stability">
      <thead>
        <tr>
          <th>
            {termInWords(treatments, term)} over {found.sites.length} sites
          </th>
          <th className="number">Mean</th>
          <th className="number" title="What it gains where the site gains one; 1 goes along with the sites">
            Slope
          </th>
          <th className="number">s.e.</th>
          <th className="number">p of 1</th>
          <th className="number" title="Its part of all that treatments do differently from site to site">
            Share of interaction, %
          </th>
          <th className="number" title="Mean square distance below the best of each site, halved: small is good">
            Below the best
          </th>
        </tr>
      </thead>
      <tbody>
        {entries.map((each) => (
          <tr key={each.entry}>
            <td style={{ whiteSpace: 'nowrap' }}>{nameOf(each.entry)}</td>
            <td className="number">{formatNumber(each.mean * factor, 3)}</td>
            <td className="number">{formatNumber(each.slope, 2)}</td>
            <td className="number">{formatNumber(each.slopeError, 2)}</td>
            <td className="number">{formatP(each.p)}</td>
            <td className="number">{formatNumber(each.ecovalenceShare, 2)}</td>
            <td className="number">{formatNumber(each.superiority * factor ** 2, 2)}</td>
          </tr>
        ))}
      </tbody>
      <tfoot>
        <tr>
          <td colSpan={7} className="small quiet">
            Sites rank them {agreement.w > 0.7 ? 'much alike' : agreement.w > 0.4 ? 'somewhat alike' : 'hardly alike'}: W{' '}
            {formatNumber(agreement.w, 2)}, p {formatP(agreement.p)}.
            {first
              ? ` Of the interaction ${formatNumber(first.percent, 2)} % lies along one axis${second ? `, ${formatNumber(second.percent, 2)} % along a second` : ''}.`
              : ''}
          </td>
        </tr>
      </tfoot>
    </table>
  )
}
