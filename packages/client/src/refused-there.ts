/** The customer's side said no: the message is why, in words that every language has. */
export class RefusedThere extends Error {}
