import { treatmentShapes, type Treatments } from '@canter/core/trial'
import { Fragment, useState } from 'react'
import { PasteTreatments } from './paste-treatments.tsx'
import classes from './treatment-list.module.css'

/** Ways to begin the treatments, by what is asked; folded away once something stands. */
export function TreatmentShapes({ begun, onBegin }: { begun: boolean; onBegin: (treatments: Treatments) => void }) {
  const [open, setOpen] = useState(false)
  if (begun && !open)
    return (
      <p className="small" style={{ margin: '0 0 8px' }}>
        <button type="button" className="link-button" onClick={() => setOpen(true)}>
          Begin from another question
        </button>{' '}
        <span className="quiet">or</span> <PasteTreatments onTake={onBegin} />
      </p>
    )
  return (
    <>
      <p className="small quiet" style={{ margin: '0 0 4px' }}>
        What is asked? Each begins the treatments in its own way{begun ? ', in place of those that stand' : ''}.
      </p>
      <div className={`${classes.shapes} small`} role="group" aria-label="Ways to begin the treatments">
        {treatmentShapes.map((shape) => (
          <Fragment key={shape.key}>
            <button
              type="button"
              className="link-button"
              onClick={() => {
                onBegin(shape.begin())
                setOpen(false)
              }}
            >
              {shape.asks}
            </button>
            <span className="quiet">{shape.example}</span>
          </Fragment>
        ))}
        <PasteTreatments
          onTake={(treatments) => {
            onBegin(treatments)
            setOpen(false)
          }}
        />
        <span className="quiet">names in a column, or a column for each thing that is varied</span>
      </div>
    </>
  )
}
