/** One measurement: of what, how much, and what was wanted. */
export interface Row {
  readonly what: string;
  readonly value: string;
  readonly aim: string;
}
