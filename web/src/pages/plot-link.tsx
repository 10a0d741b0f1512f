import { useQuery } from '@tanstack/react-query'
import { Navigate, useParams } from 'react-router'
import { trialQuery } from '../data/trial-file.ts'
import { Head } from './head.tsx'

/** Where the code on a stake or label leads: to its plot in Walk. */
export function PlotLinkPage() {
  const { trial: id = '', plot = '' } = useParams()
  const { data: file, error } = useQuery(trialQuery(id))
  const layout = file?.layouts.find((each) => each.units.some((unit) => unit.id === plot))
  if (layout) return <Navigate to={`/trials/${id}/walk?${new URLSearchParams({ plot, site: layout.siteKey }).toString()}`} replace />
  return (
    <>
      <Head />
      <main id="main" style={{ padding: 24 }}>
        {file || error ? (
          <p>
            {file
              ? 'This plot is no longer part of the trial: it was dealt out anew since the label was printed.'
              : `The trial of this label could not be opened: ${error.message}`}
          </p>
        ) : (
          <p className="quiet">Opening…</p>
        )}
      </main>
    </>
  )
}
