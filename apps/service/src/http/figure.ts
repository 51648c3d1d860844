/** One number that the service says of itself, read when it is asked for. */
export interface Figure {
  readonly name: string;
  readonly help: string;
  read(): number | Promise<number>;
}
