import type { Sentence } from '@canter/core/analysis'

/** Figures stay with their signs and measures at the end of a line. */
function unbroken(text: string): string {
  return text.replace(/\b([pFt]) (?=[<>−\d])/g, '$1\u00a0').replace(/([<>]|\d) (?=%|\d)/g, '$1\u00a0')
}

/** What the trial says, the class of its evidence beside each sentence. */
export function Sentences({ sentences, leading = true }: { sentences: readonly Sentence[]; leading?: boolean }) {
  return (
    <>
      {sentences.map((each, i) => (
        <p key={each.text} className={i === 0 && leading ? 'sentence lead' : 'sentence'}>
          {unbroken(each.text)}{' '}
          <span className="badge" data-kind={each.evidence} title={each.why}>
            {i === 0 && leading ? `${each.evidence}: ${each.why}` : each.evidence}
          </span>
        </p>
      ))}
    </>
  )
}
