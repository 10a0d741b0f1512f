/** Says in grey that something is fixed by what has been done. */
export function Lock({ what }: { what: string }) {
  return (
    <span className="small quiet" title={what}>
      locked: it stands on the ground
    </span>
  )
}
