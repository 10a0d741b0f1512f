import { designOf } from '@canter/core/design'
import { TrialBook } from '@canter/core/numbers'
import { counted } from '@canter/core/quantity'
import { shownOf, type Trial, type TrialSummary } from '@canter/core/trial'
import type { Reading } from '../store/store.ts'
import type { KeptSummary } from '../store/trials.ts'

export interface Told {
  readonly summaries: readonly TrialSummary[]
  /** Those that were worked out anew, to be kept. */
  readonly fresh: readonly KeptSummary[]
}

interface Open {
  readonly version: number
  readonly trial: Trial
  readonly book: TrialBook
  seq: number
}

/** How many trials are held with all their readings. */
const MOST_OPEN = 12

/** What lists show of each trial, kept up to date record by record. */
export class Summaries {
  readonly #store: Reading
  readonly #open = new Map<string, Open>()
  readonly #under = new Map<string, Promise<TrialSummary | null>>()

  constructor(store: Reading) {
    this.#store = store
  }

  async all(deleted: boolean, kept: readonly KeptSummary[]): Promise<Told> {
    const known = new Map(kept.map((each) => [each.trialId, each]))
    const fresh: KeptSummary[] = []
    const summaries: TrialSummary[] = []
    for (const { id, version, seq } of await this.#store.trials.heads(deleted)) {
      const found = known.get(id)
      if (found?.version === version && found.seq === seq) {
        summaries.push(found.body)
        continue
      }
      // One trial that cannot be opened does not hide the others.
      const body = await this.#once(`${id} ${version} ${seq}`, id).catch((error: unknown) => brokenSummary(id, error))
      if (!body) continue
      summaries.push(body)
      if (body.problem === null) fresh.push({ trialId: id, version, seq, body })
    }
    return { summaries: summaries.sort((a, b) => b.season - a.season), fresh }
  }

  /** Ten lists asked for at once are worked out once. */
  #once(key: string, id: string): Promise<TrialSummary | null> {
    const found = this.#under.get(key)
    if (found) return found
    const made = this.#summary(id).finally(() => this.#under.delete(key))
    this.#under.set(key, made)
    return made
  }

  async #summary(id: string): Promise<TrialSummary | null> {
    const trial = await this.#store.trials.trial(id)
    if (!trial) return null
    let open = this.#open.get(id)
    if (open?.version !== trial.version) {
      const layouts = await this.#store.trials.layouts(trial)
      open = { version: trial.version, trial, book: new TrialBook(trial, layouts), seq: 0 }
    }
    const { records, cursor } = await this.#store.records.since(id, open.seq)
    open.book.add(records.map((each) => each.record))
    open.seq = cursor
    this.#open.delete(id)
    this.#open.set(id, open)
    const [oldest] = this.#open.keys()
    if (this.#open.size > MOST_OPEN && oldest !== undefined) this.#open.delete(oldest)
    return {
      id,
      version: trial.version,
      title: trial.question.title,
      crop: trial.question.crop,
      season: trial.question.season,
      deletedAt: trial.deletedAt,
      sites: trial.sites.map((site) => site.name),
      treatments: trial.treatments.list.length,
      layout: layoutInWords(trial),
      progress: open.book.progress(),
      problem: null,
    }
  }
}

function brokenSummary(id: string, error: unknown): TrialSummary {
  return {
    id,
    version: 1,
    title: 'A trial that cannot be opened',
    crop: '',
    season: 0,
    deletedAt: null,
    sites: [],
    treatments: 0,
    layout: '',
    progress: {
      stage: 'question',
      readings: 0,
      expected: 0,
      sites: {},
      visits: {},
      planted: [],
      conflicts: 0,
      happened: 0,
      measured: false,
      next: '',
    },
    problem: `What is stored of it is damaged (${error instanceof Error ? error.message.slice(0, 120) : 'unreadable'}). The other trials are whole; put a backup back to bring this one back.`,
  }
}

/** `6 treatments in 4 blocks`; with several sites of unlike size the range. */
function layoutInWords(trial: Trial): string {
  const treatments = counted(trial.treatments.list.length - shownOf(trial.treatments).length, 'treatment')
  const repeats = new Set(
    trial.sites.map(({ design }) => `${designOf(design.key)?.repeat.toLowerCase() ?? 'replicates'}|${design.replicates}`),
  )
  const [only] = [...repeats]
  if (repeats.size !== 1) return treatments
  const [what, count] = only!.split('|') as [string, string]
  return count === '1' ? `${treatments}, one of each` : `${treatments} × ${count} ${what}`
}
