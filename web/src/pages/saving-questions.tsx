import { Button, Group, Modal, Textarea } from '@mantine/core'
import { useForm } from '@mantine/form'
import type { Question } from '../data/saving.ts'

/** What saving has to ask: a reason for the record, whether to deal out anew, or which of two versions stands. */
export function SavingQuestions({ question }: { question: Question | null }) {
  if (question?.kind === 'reason') return <ReasonQuestion text={question.text} answer={question.answer} />
  if (question?.kind === 'confirm') {
    return (
      <Modal opened onClose={() => question.answer(false)} title="Deal out anew?" closeButtonProps={{ 'aria-label': 'Close' }}>
        <p>{question.text}</p>
        <Group mt="md" justify="flex-end">
          <Button variant="subtle" onClick={() => question.answer(false)}>
            Leave it as it was
          </Button>
          <Button onClick={() => question.answer(true)}>Change it</Button>
        </Group>
      </Modal>
    )
  }
  if (question?.kind === 'stale') {
    return (
      <Modal
        opened
        onClose={() => question.answer(false)}
        size="lg"
        title="Changed elsewhere meanwhile"
        closeButtonProps={{ 'aria-label': 'Close' }}
      >
        <p>Someone changed the same after you opened it ({question.section}). Both are kept in the history; choose which stands.</p>
        <table className="ruled">
          <thead>
            <tr>
              <th>What</th>
              <th>Yours</th>
              <th>What stands now</th>
            </tr>
          </thead>
          <tbody>
            {question.clashes.map((clash) => (
              <tr key={clash.what}>
                <td>{clash.what}</td>
                <td>{clash.yours}</td>
                <td>{clash.stands}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <Group mt="md" justify="flex-end">
          <Button variant="outline" onClick={() => question.answer(false)}>
            Keep what stands
          </Button>
          <Button onClick={() => question.answer(true)}>Take mine</Button>
        </Group>
      </Modal>
    )
  }
  return null
}

function ReasonQuestion({ text, answer }: { text: string; answer: (reason: string | null) => void }) {
  const form = useForm({
    initialValues: { reason: '' },
    validate: { reason: (value) => (value.trim() === '' ? 'A reason is needed.' : null) },
  })
  return (
    <Modal opened onClose={() => answer(null)} title="A reason, for the record" closeButtonProps={{ 'aria-label': 'Close' }}>
      <form onSubmit={form.onSubmit(({ reason }) => answer(reason.trim()))}>
        <p>{text}</p>
        <Textarea data-autofocus label="Reason" maxLength={1000} minRows={2} autosize {...form.getInputProps('reason')} />
        <Group mt="md" justify="flex-end">
          <Button variant="subtle" onClick={() => answer(null)}>
            Leave it as it was
          </Button>
          <Button type="submit">Change it on record</Button>
        </Group>
      </form>
    </Modal>
  )
}
