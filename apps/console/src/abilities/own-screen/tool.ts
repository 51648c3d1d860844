import { TechnicianOwnScreen } from '@porch/client';
import type { OwnSurface } from '@porch/core';
import { canCaptureScreen, MOST_FRAMES_PER_SECOND, PageShare, surfaceOf, type Surface } from '@porch/pages/share';
import { computed, shallowRef } from 'vue';
import { inWords } from '../../in-words.ts';
import { w } from '../../words/index.ts';
import { defineTool, type ConsoleSession, type Tool } from '../console-ability.ts';
import { inputTool } from '../input/tool.ts';

/** What a browser does not name may be anything, this page too. */
const surfaceNames: Readonly<Record<Surface, OwnSurface>> = {
  browser: 'tab',
  window: 'window',
  monitor: 'screen',
  other: 'screen',
};

/**
 * Never this very tab; and what was chosen stays what is shown, so that what is said of it stays true. (W3C Screen
 * Capture, DisplayMediaStreamOptions.)
 */
const CHOICE = {
  video: { frameRate: MOST_FRAMES_PER_SECOND },
  audio: false,
  selfBrowserSurface: 'exclude',
  surfaceSwitching: 'exclude',
  monitorTypeSurfaces: 'include',
} as const;

/** A screen, a window or a tab of this technician's, shown to the customer. */
class OwnScreenTool implements Tool {
  readonly what = shallowRef<OwnSurface>();
  /** Whether the customer's side has it open. */
  readonly isSeen = shallowRef(false);
  /** For a copy in the panel: whoever shows something sees what is seen. */
  readonly stream = shallowRef<MediaStream>();
  readonly trouble = shallowRef('');
  /** Why it is over, when that was not the technician's press. */
  readonly over = shallowRef<'closed' | 'not-allowed'>();
  /** Their picture is covered here, since they would see their own screen in what is shown to them. */
  readonly isCovered = shallowRef(false);
  readonly isPossible = canCaptureScreen;
  readonly mayShow = computed(() => (void this.#session.told.value, this.#session.may('show-own-screen')));
  readonly #session: ConsoleSession;
  readonly #own: TechnicianOwnScreen;

  constructor(session: ConsoleSession) {
    this.#session = session;
    this.#own = new TechnicianOwnScreen(session.connection);
    this.#own.listeners.on('changed', () => this.#follow());
  }

  /** A press must have led here: browsers let nobody choose without. */
  async choose(): Promise<void> {
    this.trouble.value = '';
    this.over.value = undefined;
    let stream: MediaStream;
    try {
      stream = await navigator.mediaDevices.getDisplayMedia(CHOICE as DisplayMediaStreamOptions);
    } catch (error) {
      const isNothing = error instanceof DOMException && error.name === 'NotAllowedError';
      this.trouble.value = isNothing ? w.value.ownScreen.nothingChosen : w.value.ownScreen.cannot;
      return;
    }
    const [track] = stream.getVideoTracks();
    if (track) await this.#show(stream, track);
  }

  stop(): void {
    this.#own.end();
  }
  uncover(): void {
    this.isCovered.value = false;
  }

  close(): void {
    this.#own.close();
    this.#drop();
  }

  async #show(stream: MediaStream, track: MediaStreamTrack): Promise<void> {
    this.#drop();
    const what = surfaceNames[surfaceOf(track)];
    this.stream.value = stream;
    if (what !== 'tab') this.#cover();
    // The browser has a stop of its own, too.
    track.addEventListener('ended', () => {
      if (this.stream.value === stream) this.stop();
    });
    const trouble = (why: string) => (this.trouble.value = why);
    try {
      await this.#own.begin(
        what,
        (line) => new PageShare(this.#session.connection, line, { track, name: what }, trouble),
      );
    } catch (error) {
      this.trouble.value = inWords(error);
    }
  }

  /** What is not seen is not worked. */
  #cover(): void {
    this.isCovered.value = true;
    this.#session.tool(inputTool).hidden();
  }

  #follow(): void {
    this.what.value = this.#own.what;
    this.isSeen.value = this.#own.isSeen;
    if (this.#own.what) return;
    this.over.value = this.#own.over;
    this.#drop();
  }

  /** Nothing is captured any longer. */
  #drop(): void {
    for (const track of this.stream.value?.getTracks() ?? []) track.stop();
    this.stream.value = undefined;
    this.isCovered.value = false;
  }
}

export const ownScreenTool = defineTool({ name: 'own-screen', begin: (session) => new OwnScreenTool(session) });
