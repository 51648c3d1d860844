import { inBackground, TechnicianClipboard, type ClipProgress } from '@porch/client';
import { SMALL_CLIP_BYTES, type ClipBytesKind, type ClipOffer } from '@porch/wire';
import { computed, shallowRef } from 'vue';
import { inWordsOr } from '../../in-words.ts';
import { w } from '../../words/index.ts';
import { defineTool, type ConsoleSession, type Tool } from '../console-ability.ts';
import { filesTool } from '../files/tool.ts';
import { copiedIn, readHere, saveHere, writeHere, type CopiedHere } from './own-clipboard.ts';
import { StageTyping } from './stage-typing.ts';

/** A copy there that comes so soon after a copy was pressed here is the technician's own. */
const OWN_COPY_MS = 5_000;

/** Both clipboards: what is copied on one side is pasted on the other, small things with the keys that people use. */
class ClipboardTool implements Tool {
  readonly offer = shallowRef<ClipOffer>();
  readonly moving = shallowRef<ClipProgress>();
  /** Larger than what goes by itself: chosen first. */
  readonly large = shallowRef<Exclude<CopiedHere, { kind: 'files' }>>();
  readonly word = shallowRef('');
  readonly mayGive = computed(() => (void this.#session.told.value, this.#session.may('give-clipboard')));
  readonly mayRead = computed(() => (void this.#session.told.value, this.#session.may('read-clipboard')));
  readonly typing: StageTyping;
  readonly #session: ConsoleSession;
  readonly #clipboard: TechnicianClipboard;
  #copyPressedAtMs = -Infinity;
  /** The text that is on their clipboard by us, as long as nothing else was copied there. */
  #textThere: string | undefined;

  constructor(session: ConsoleSession) {
    this.#session = session;
    this.typing = new StageTyping(session);
    this.#clipboard = new TechnicianClipboard(session.connection);
    this.#clipboard.listeners.on('moving', (now) => (this.moving.value = now));
    this.#clipboard.listeners.on('copied', (now) => this.#takeOffer(now));
    session.connection.on('entry', () => {
      if (!session.may('read-clipboard')) this.#clipboard.forget();
    });
  }

  /** What was copied there comes onto the clipboard of this browser, or into its downloads. */
  read(kind: ClipBytesKind): Promise<void> {
    return this.#attempt(async () => {
      const bytes = await this.#clipboard.read(kind);
      const isTaken = await writeHere(kind, bytes);
      if (!isTaken) await saveHere(kind, bytes);
      this.word.value = isTaken ? w.value.clipboard.taken : w.value.clipboard.saved;
    });
  }

  /** Resolves with true once it can be pasted there. */
  async put(what: CopiedHere): Promise<boolean> {
    this.large.value = undefined;
    let isThere = false;
    await this.#attempt(async () => {
      isThere = what.kind === 'files' ? await this.#putFiles(what.files) : await this.#putBytes(what.kind, what.bytes);
      if (isThere) this.word.value = w.value.clipboard.placed;
    });
    return isThere;
  }

  /** What this browser has now, put there by a press. */
  async putOwn(): Promise<void> {
    const here = await this.#own();
    if (here) await this.put(here);
  }

  /** Types what this browser has, where pasting is refused. */
  async type(display: number): Promise<void> {
    const here = await this.#own();
    if (here?.kind === 'text') await this.typing.type(display, new TextDecoder().decode(here.bytes));
    else if (here) this.word.value = w.value.clipboard.emptyHere;
  }

  /** Pasted at the stage. True once the keys that paste there may be pressed. */
  async paste(data: DataTransfer | null): Promise<boolean> {
    const here = await copiedIn(data);
    if (!here) return true;
    if (here.kind === 'files' || here.bytes.length <= SMALL_CLIP_BYTES) return this.put(here);
    this.large.value = here;
    return false;
  }

  /** Copying was pressed there: what is copied next is the technician's own. */
  copyPressed(): void {
    this.#copyPressedAtMs = performance.now();
  }

  stop(): void {
    this.#clipboard.stop();
  }
  hidden(): void {
    this.typing.stop();
  }
  close(): void {
    this.typing.stop();
    this.#clipboard.close();
  }

  #takeOffer(now: ClipOffer | undefined): void {
    this.offer.value = now;
    this.#textThere = undefined;
    this.word.value = '';
    const [only] = now?.parts ?? [];
    const isOwn = performance.now() - this.#copyPressedAtMs < OWN_COPY_MS;
    this.#copyPressedAtMs = -Infinity;
    // What the customer copies is named, and fetched only by a press.
    if (only && isOwn && only.sizeBytes <= SMALL_CLIP_BYTES) inBackground('copying', this.read(only.kind));
  }

  async #putBytes(kind: ClipBytesKind, bytes: Uint8Array): Promise<boolean> {
    const text = kind === 'text' ? new TextDecoder().decode(bytes) : undefined;
    // Pasted again and again it is put there once, where we would hear of another copy.
    if (text !== undefined && text === this.#textThere && this.#session.may('read-clipboard')) return true;
    await this.#clipboard.put(kind, bytes);
    this.#textThere = text;
    return true;
  }

  /** Given as files, each asked for; then they are on the clipboard there. */
  async #putFiles(what: readonly File[]): Promise<boolean> {
    if (!this.#session.may('give-files')) {
      this.word.value = w.value.files.askFirst;
      return false;
    }
    this.word.value = w.value.clipboard.filesAsFiles;
    const files = this.#session.tool(filesTool);
    const given = await Promise.all(what.map((file) => files.give(file)));
    const fileIds = given.filter((id) => id !== undefined);
    const stageOf = (id: string) => this.#session.connection.state.slices.files[id]?.stage;
    const isOpen = (id: string) => stageOf(id) === 'offered' || stageOf(id) === 'moving';
    await new Promise<void>((resolve) => {
      const look = () => {
        if (fileIds.some(isOpen)) return;
        off();
        resolve();
      };
      const off = this.#session.connection.on('entry', look);
      look();
    });
    const arrived = fileIds.filter((id) => stageOf(id) === 'arrived');
    if (!arrived.length) return false;
    await this.#clipboard.putFiles(arrived);
    return true;
  }

  async #own(): Promise<CopiedHere | undefined> {
    try {
      const here = await readHere();
      this.word.value = here ? '' : w.value.clipboard.emptyHere;
      return here;
    } catch {
      // Only where the browser lets a page, and only while it is in front.
      this.word.value = w.value.clipboard.notAllowedHere;
      return undefined;
    }
  }

  async #attempt(work: () => Promise<void>): Promise<void> {
    this.word.value = '';
    try {
      await work();
    } catch (error) {
      const why = inWordsOr(error, ({ why: own }) => own);
      this.word.value = w.value.clipboard.notDone({ why });
    }
  }
}

export const clipboardTool = defineTool({ name: 'clipboard', begin: (session) => new ClipboardTool(session) });
