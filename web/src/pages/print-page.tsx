import { PAPERS, type Paper } from '@canter/core/ground'
import { Button, SegmentedControl } from '@mantine/core'
import { useState, type ReactNode } from 'react'
import { Link } from 'react-router'
import { Head } from './head.tsx'
import classes from './print-page.module.css'

const NAMES: Readonly<Record<Paper, string>> = { A4: 'A4', A3: 'A3', letter: 'Letter' }

interface PrintPageProps {
  readonly name: string
  readonly back: string
  readonly error: Error | null
  readonly children: ReactNode
  /** What it can be printed on; A4 or Letter where nothing is said. */
  readonly papers?: readonly Paper[]
  /** Sheets that are filled to the edge, of a paper of their own: nothing is put around them. */
  readonly bare?: Paper | undefined
  readonly landscape?: boolean
  /** Told of the paper that is chosen. */
  readonly onPaper?: (paper: Paper) => void
}

/** The paper that was last chosen on this device, of those that can be had here. */
export function chosenPaper(papers: readonly Paper[] = ['A4', 'letter']): Paper {
  const kept = localStorage.getItem('canter.paper')
  return papers.find((each) => each === kept) ?? papers[0]!
}

/** What to mind, each once, in columns. */
export function Cautions({ texts }: { texts: readonly string[] }) {
  return (
    <div className={classes.cautions}>
      {[...new Set(texts)].map((text) => (
        <p key={text} className="caution small">
          {text}
        </p>
      ))}
    </div>
  )
}

/** A page made for paper, without the tools of the screen. */
export function PrintPage({ name, back, error, children, papers = ['A4', 'letter'], bare, landscape = false, onPaper }: PrintPageProps) {
  const [chosen, setChosen] = useState<Paper>(() => chosenPaper(papers))
  const paper = bare ?? chosen
  const { width, height } = PAPERS[paper]
  const [wide, high] = landscape ? [height, width] : [width, height]
  return (
    <>
      <style>{`@page { size: ${wide}mm ${high}mm; margin: ${bare ? '0' : '16mm 15mm'}; }`}</style>
      <Head
        right={
          <>
            {!bare && (
              <SegmentedControl
                size="xs"
                aria-label="Paper"
                value={paper}
                onChange={(value) => {
                  setChosen(value)
                  localStorage.setItem('canter.paper', value)
                  onPaper?.(value)
                }}
                data={papers.map((value) => ({ value, label: NAMES[value] }))}
              />
            )}
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
      <main
        id="main"
        className={bare ? classes.bare : classes.paper}
        style={bare ? undefined : { width: `${wide}mm` }}
        data-paper={paper}
        data-mantine-color-scheme="light"
      >
        {error ? <p className="caution">{error.message}</p> : children}
      </main>
    </>
  )
}
