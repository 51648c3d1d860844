/** The customer's side said no. */
export class RefusedThere extends Error {
  /** In words that every language has. */
  get why(): string {
    return this.message;
  }
}
