/** What the person here wants, by a button of the bar or by keys. */
export interface Wishes {
  stop: undefined;
  hide: undefined;
  private: undefined;
  takeBack: undefined;
}
