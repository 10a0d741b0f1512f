/** The call itself is wrong, not the file. */
export class UsageError extends Error {}
