import { labelAt, LABEL_SHEETS, PAPERS, type LabelSheet, type Stake } from '@canter/core/ground'
import { create } from 'qrcode'
import { useMemo } from 'react'
import classes from './labels.module.css'

/** What stands on one label beside its number. */
export interface LabelText {
  readonly stake: Stake
  /** Large, beside the number: the treatment's code, or nothing where it is to stay unknown. */
  readonly code: string
  readonly lines: readonly string[]
}

/** Labels on the sheets they are sold on, each with a code that opens its plot in Walk. */
export function Labels({ labels, sheet, used, trial }: { labels: readonly LabelText[]; sheet: LabelSheet; used: number; trial: string }) {
  const placed = labels.map((label, n) => ({ label, ...labelAt(sheet, n, used) }))
  const pages = placed.length === 0 ? 0 : placed.at(-1)!.page + 1
  const paper = PAPERS[sheet.paper]
  // A code needs its quiet edge; below a third of a millimetre a square is not read.
  const side = Math.min(sheet.height - 3, sheet.width * 0.36)
  return (
    <>
      {Array.from({ length: pages }, (_, page) => (
        <section
          key={page}
          className={classes.sheet}
          style={{ width: `${paper.width}mm`, height: `${paper.height}mm` }}
          aria-label={`Sheet ${page + 1} of ${pages}`}
        >
          {placed
            .filter((each) => each.page === page)
            .map(({ label, x, y }) => (
              <div
                key={label.stake.unit.id}
                className={classes.label}
                data-small={sheet.height < 30}
                data-label={label.stake.unit.id}
                style={{ left: `${x}mm`, top: `${y}mm`, width: `${sheet.width}mm`, height: `${sheet.height}mm` }}
              >
                <div className={classes.words}>
                  <div className={classes.number}>{label.stake.unit.code}</div>
                  {label.code && <div className={classes.code}>{label.code}</div>}
                  {label.lines.filter(Boolean).map((line) => (
                    <div key={line} className={classes.line}>
                      {line}
                    </div>
                  ))}
                </div>
                <QrCode text={`${window.location.origin}/w/${trial}/${label.stake.unit.id}`} side={side} />
              </div>
            ))}
        </section>
      ))}
    </>
  )
}

function QrCode({ text, side }: { text: string; side: number }) {
  const { path, size } = useMemo(() => {
    const { modules } = create(text, { errorCorrectionLevel: 'L' })
    const cells: string[] = []
    modules.data.forEach((dark, i) => {
      if (dark) cells.push(`M${i % modules.size} ${Math.floor(i / modules.size)}h1v1h-1z`)
    })
    return { path: cells.join(''), size: modules.size }
  }, [text])
  return (
    <svg
      viewBox={`-2 -2 ${size + 4} ${size + 4}`}
      style={{ width: `${side}mm`, height: `${side}mm`, flex: 'none' }}
      shapeRendering="crispEdges"
      aria-hidden
    >
      <path d={path} fill="#000" />
    </svg>
  )
}

export function sheetOf(key: string | null): LabelSheet {
  return LABEL_SHEETS.find((each) => each.key === key) ?? LABEL_SHEETS[0]!
}
