/** A piece of a sentence; one with a tag is drawn in its own way: a link, a button, in bold. */
export interface Piece<Tag extends string = string> {
  readonly tag?: Tag;
  readonly text: string;
}
