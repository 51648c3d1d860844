import type { Listeners } from '@porch/client';
import type { BannerPort, BannerWords } from '@porch/host';
import type { XConnection } from '../server/connection.ts';
import type { BasicExtensions } from '../server/extensions.ts';
import type { Wishes } from '../wishes.ts';
import { Banner } from './banner.ts';

/** The bar of this desktop; what it has buttons for can be wished by keys, too. */
export class X11Banner implements BannerPort {
  readonly #wishes: Listeners<Wishes>;
  readonly #banner: Banner;

  constructor(x: XConnection, extensions: BasicExtensions, wishes: Listeners<Wishes>) {
    this.#wishes = wishes;
    this.#banner = new Banner(x, extensions, {
      onStop: () => wishes.emit('stop', undefined),
      onHide: () => wishes.emit('hide', undefined),
      onPrivate: () => wishes.emit('private', undefined),
      onFiles: () => wishes.emit('files', undefined),
      onMute: () => wishes.emit('mute', undefined),
      onDraw: () => wishes.emit('draw', undefined),
      onTool: (tool) => wishes.emit('drawWith', tool),
      onUndo: () => wishes.emit('undoMark', undefined),
      onClear: () => wishes.emit('clearMarks', undefined),
    });
  }

  async showBanner(words: BannerWords | undefined): Promise<void> {
    if (words) await this.#banner.show(words);
    else this.#banner.hide();
  }
  onStop = (listener: () => void) => this.#wishes.on('stop', listener);
  onHideWanted = (listener: () => void) => this.#wishes.on('hide', listener);
  onPrivateWanted = (listener: () => void) => this.#wishes.on('private', listener);
  onMuteWanted = (listener: () => void) => this.#wishes.on('mute', listener);
  onFilesWanted = (listener: () => void) => this.#wishes.on('files', listener);
  onDrawWanted = (listener: () => void) => this.#wishes.on('draw', listener);
  onTakeBackWanted = (listener: () => void) => this.#wishes.on('takeBack', listener);
}
