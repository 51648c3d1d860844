/** What the person here draws with. */
export type OwnTool = 'pen' | 'arrow' | 'box';

/** What the person here wants, by a button of the bar or by keys. */
export interface Wishes {
  stop: undefined;
  hide: undefined;
  private: undefined;
  takeBack: undefined;
  /** To see which files are on their way. */
  files: undefined;
  /** The microphone muted, or opened again. */
  mute: undefined;
  /** To draw, or to be done with it. */
  draw: undefined;
  drawWith: OwnTool;
  undoMark: undefined;
  clearMarks: undefined;
}
