import { Modal } from '@mantine/core'
import { useDisclosure, useHotkeys } from '@mantine/hooks'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import { usePerson } from '../data/queries.ts'
import { keptSearch } from '../data/selection.ts'
import { steps } from '../steps/steps.ts'

/** Alt with a number changes step; `?` lists the keys; `/` goes to the list of trials. */
export function ShortcutKeys() {
  const { trial } = useParams()
  const navigate = useNavigate()
  const { shortcuts } = usePerson()
  const [open, { open: show, close }] = useDisclosure(false)
  const [search] = useSearchParams()
  const goTo = (step: string): void => {
    if (shortcuts && trial) void navigate({ pathname: `/trials/${trial}/${step}`, search: keptSearch(search) })
  }
  // Steps also while one types in a field; the others only outside.
  useHotkeys(
    steps.map((step, i): [string, () => void] => [`alt+${i + 1}`, () => goTo(step.key)]),
    [],
  )
  useHotkeys([
    ['shift+?', show],
    ['?', show],
    ['/', () => void navigate('/?find=1')],
  ])
  return (
    <Modal opened={open} onClose={close} title="Keys" closeButtonProps={{ 'aria-label': 'Close' }}>
      <table className="ruled">
        <tbody>
          {KEYS.map(([key, does]) => (
            <tr key={key}>
              <td>
                <kbd>{key}</kbd>
              </td>
              <td>{does}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Modal>
  )
}

const KEYS = [
  [`Alt 1 … Alt ${steps.length}`, steps.map((step) => step.name).join(', ')],
  ['← → ↑ ↓', 'From plot to plot on the plan'],
  ['+ − 0', 'Closer, farther, whole site'],
  ['Enter', 'On the plan: open the plot. In Walk: next field, then next plot'],
  ['Page Down, Page Up', 'In Walk: next and last plot'],
  ['Esc', 'Takes back what is being typed; lets go of the plot'],
  ['Ctrl Z', 'Undo the last change of the trial or the last reading'],
  ['/', 'Find a trial'],
  ['?', 'This list'],
] as const
