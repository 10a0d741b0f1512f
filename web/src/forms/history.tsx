import { counted } from '@canter/core/quantity'
import { notifications } from '@mantine/notifications'
import dayjs from 'dayjs'
import { useOpenTrial } from '../data/open-trial.ts'
import { useUndoEvent } from '../data/trial-file.ts'

/** The last changes of the trial, each of which can be turned back. */
export function History() {
  const { trial, events } = useOpenTrial()
  const { mutate, isPending } = useUndoEvent(trial.id)
  const turned = new Set(events.map((event) => event.undoes))
  return (
    <section className="section" aria-labelledby="history">
      <h2 className="section-title" id="history">
        History <span className="small quiet">{counted(events.length, 'change')}</span>
      </h2>
      <table className="ruled">
        <tbody>
          {[...events]
            .reverse()
            .slice(0, 12)
            .map((event) => (
              <tr key={event.id}>
                <td className="quiet" style={{ whiteSpace: 'nowrap', width: 130 }}>
                  {dayjs(event.at).format('D MMM YYYY HH:mm')}
                </td>
                <td>
                  {event.what}
                  {event.reason && <span className="quiet">: {event.reason}</span>}
                </td>
                <td className="number">
                  {event.before !== null && event.kind !== 'created' && !turned.has(event.id) && (
                    <button
                      type="button"
                      className="link-button small"
                      disabled={isPending}
                      onClick={() =>
                        mutate(
                          { event: event.id },
                          { onError: (error) => notifications.show({ color: 'red', title: 'Not turned back', message: error.message }) },
                        )
                      }
                    >
                      Turn back
                    </button>
                  )}
                </td>
              </tr>
            ))}
        </tbody>
      </table>
    </section>
  )
}
