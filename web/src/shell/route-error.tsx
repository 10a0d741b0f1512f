import { Button } from '@mantine/core'
import { isRouteErrorResponse, Link, useRouteError } from 'react-router'

export function RouteError() {
  const error = useRouteError()
  const text = isRouteErrorResponse(error) ? error.statusText : error instanceof Error ? error.message : String(error)
  return <Told title="This page could not be shown" text={`${text} What you entered is kept on this device.`} />
}

export function NoSuchPage() {
  return <Told title="There is no such page" text="The address may be mistyped, or from another version." />
}

function Told({ title, text }: { title: string; text: string }) {
  return (
    <div style={{ maxWidth: 560, margin: '12vh auto', padding: 16 }}>
      <h1 style={{ fontSize: '1.5rem' }}>{title}</h1>
      <p>{text}</p>
      <Button component={Link} to="/" variant="outline">
        To this week
      </Button>{' '}
      <Button variant="subtle" onClick={() => location.reload()}>
        Load again
      </Button>
    </div>
  )
}
