/** A reply that is JSON already: made beside the thread that answers, or of pieces that are stored as text. */
export class JsonText {
  readonly text: string

  constructor(text: string) {
    this.text = text
  }
}
