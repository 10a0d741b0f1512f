import { WorkThread } from './work-thread.ts'

/** Those who do the long work: one reads the store, one works out changes of large trials, one searches layouts, one opens files that come from outside. */
export class WorkThreads {
  readonly reading: WorkThread
  readonly changing: WorkThread
  readonly searching: WorkThread
  readonly opening: WorkThread

  constructor(database: string) {
    this.reading = new WorkThread(database, { milliseconds: 120_000, megabytes: 1024, idle: null })
    this.changing = new WorkThread(database, { milliseconds: 60_000, megabytes: 1024, idle: null })
    this.searching = new WorkThread(database, { milliseconds: 120_000, megabytes: 1024, idle: 60_000 })
    this.opening = new WorkThread(database, { milliseconds: 15_000, megabytes: 192, idle: 2000 })
  }

  async close(): Promise<void> {
    await Promise.all([this.reading.close(), this.changing.close(), this.searching.close(), this.opening.close()])
  }
}
