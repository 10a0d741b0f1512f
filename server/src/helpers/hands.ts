import { Hand } from './hand.ts'

/** Those who do the long work: one reads the store, one opens files that come from outside. */
export class Hands {
  readonly reading: Hand
  readonly opening: Hand

  constructor(database: string) {
    this.reading = new Hand(database, { milliseconds: 120_000, megabytes: 1024, idle: null })
    this.opening = new Hand(database, { milliseconds: 15_000, megabytes: 192, idle: 2000 })
  }

  async close(): Promise<void> {
    await Promise.all([this.reading.close(), this.opening.close()])
  }
}
