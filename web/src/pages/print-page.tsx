import { Button, SegmentedControl } from '@mantine/core'
import { useState, type ReactNode } from 'react'
import { Link } from 'react-router'
import { Head } from './head.tsx'
import classes from './print-page.module.css'

/** A page made for paper: A4 or Letter, without the tools of the screen. */
export function PrintPage({ name, back, error, children }: { name: string; back: string; error: Error | null; children: ReactNode }) {
  const [paper, setPaper] = useState<'A4' | 'letter'>(() => (localStorage.getItem('canter.paper') === 'letter' ? 'letter' : 'A4'))
  return (
    <>
      <style>{`@page { size: ${paper}; margin: 16mm 15mm; }`}</style>
      <Head
        right={
          <>
            <SegmentedControl
              size="xs"
              aria-label="Paper"
              value={paper}
              onChange={(value) => {
                setPaper(value)
                localStorage.setItem('canter.paper', value)
              }}
              data={[
                { value: 'A4', label: 'A4' },
                { value: 'letter', label: 'Letter' },
              ]}
            />
            <Button size="compact-md" onClick={() => window.print()}>
              Print
            </Button>
          </>
        }
      >
        <Link to={back} className="small">
          Back to the trial
        </Link>
        <span className="small quiet">{name}</span>
      </Head>
      <main id="main" className={classes.paper} data-paper={paper} data-mantine-color-scheme="light">
        {error ? <p className="caution">{error.message}</p> : children}
      </main>
    </>
  )
}
