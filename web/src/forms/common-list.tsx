import type { TrialDraft } from '@canter/core/trial'
import { Textarea } from '@mantine/core'
import type { Saved } from '../data/saving.ts'

/** What every plot gets, one a line. */
export function CommonList({
  draft,
  onChange,
  units,
}: {
  draft: TrialDraft
  onChange: (common: TrialDraft['amounts']['common']) => void | Promise<Saved>
  units: string
}) {
  const standing = draft.amounts.common.map((each) => [each.what, each.amount, each.when].filter(Boolean).join('; ')).join('\n')
  return (
    <Textarea
      key={standing}
      aria-label="What every plot gets, one a line"
      placeholder={`Potash; 120 ${units} K; October before`}
      description="One a line: what; how much; when."
      inputWrapperOrder={['label', 'input', 'description', 'error']}
      autosize
      minRows={2}
      maxRows={8}
      defaultValue={standing}
      onBlur={(event) => {
        const text = event.currentTarget.value
        if (text === standing) return
        const lines = text.split('\n').filter((each) => each.trim() !== '')
        void onChange(
          lines.slice(0, 60).map((each) => {
            const [what = '', amount = '', when = ''] = each.split(';').map((part) => part.trim())
            return { what: what.slice(0, 120) || '–', amount: amount.slice(0, 120), when: when.slice(0, 60) }
          }),
        )
      }}
    />
  )
}
