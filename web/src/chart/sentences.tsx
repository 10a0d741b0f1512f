import type { Sentence } from '@canter/core/analysis'

/** What the trial says, the class of its evidence beside each sentence. */
export function Sentences({ sentences }: { sentences: readonly Sentence[] }) {
  return (
    <>
      {sentences.map((each, i) => (
        <p key={each.text} className={i === 0 ? 'sentence lead' : 'sentence'}>
          {each.text}{' '}
          <span className="badge" data-kind={each.evidence} title={each.why}>
            {i === 0 ? `${each.evidence}: ${each.why}` : each.evidence}
          </span>
        </p>
      ))}
    </>
  )
}
