import { TechnicianCamera, type CameraNow, type CameraPicture } from '@porch/client';
import { computed, shallowRef } from 'vue';
import { inWordsOr } from '../../in-words.ts';
import { w } from '../../words/index.ts';
import { defineTool, type ConsoleSession, type Tool } from '../console-ability.ts';

/** Over so long it is counted how many pictures come. */
const PACE_MS = 3_000;

/** What their camera sees, in this page as long as it is looked at, and single pictures of it. */
class CameraTool implements Tool {
  readonly isOn = shallowRef(false);
  readonly now = shallowRef<CameraNow>();
  readonly taken = shallowRef<CameraPicture>();
  readonly isTaking = shallowRef(false);
  /** Of the picture that is on its way, in percent. */
  readonly arrived = shallowRef(0);
  readonly trouble = shallowRef('');
  /** Its size and how many there are in a second. */
  readonly pace = shallowRef<{ width: number; height: number; perSecond: number }>();
  /** By quarters, as the technician turned it. */
  readonly quarters = shallowRef(0);
  readonly maySee = computed(() => (void this.#session.told.value, this.#session.may('see-camera')));
  /** Whoever shows it; the next picture comes once it has. */
  show: ((picture: CameraPicture) => Promise<void>) | undefined;
  readonly #session: ConsoleSession;
  readonly #camera: TechnicianCamera;
  #shownAtMs: number[] = [];
  #might = false;

  constructor(session: ConsoleSession) {
    this.#session = session;
    this.#camera = new TechnicianCamera(session.connection, (picture) => this.#show(picture));
    this.#camera.listeners.on('now', (now) => (this.now.value = now));
    this.#camera.listeners.on('arriving', (share) => (this.arrived.value = Math.floor(share * 100)));
    const follow = () => {
      const may = session.may('see-camera');
      if (may === this.#might) return;
      this.#might = may;
      if (!may) this.#forget();
    };
    session.connection.on('entry', follow);
    session.connection.on('caughtUp', follow);
  }

  setOn(isOn: boolean): void {
    this.#camera.setOn(isOn);
    this.isOn.value = isOn;
    this.now.value = undefined;
    this.pace.value = undefined;
    this.#shownAtMs = [];
  }
  setLight(isOn: boolean): void {
    this.#camera.setLight(isOn);
  }
  turn(): void {
    this.quarters.value = (this.quarters.value + 1) % 4;
  }

  async take(): Promise<void> {
    this.trouble.value = '';
    this.isTaking.value = true;
    this.arrived.value = 0;
    try {
      this.taken.value = await this.#camera.take();
    } catch (error) {
      this.trouble.value = inWordsOr(error, w.value.camera.notTaken);
    } finally {
      this.isTaking.value = false;
    }
  }

  /** Nothing is looked at where nobody sees it. */
  hidden(): void {
    this.setOn(false);
  }
  close(): void {
    this.#camera.close();
  }

  /** What is no longer allowed is not in sight, either. */
  #forget(): void {
    this.setOn(false);
    this.taken.value = undefined;
  }

  async #show(picture: CameraPicture): Promise<void> {
    await this.show?.(picture);
    const nowMs = this.#session.connection.clock.nowMs();
    this.#shownAtMs = [...this.#shownAtMs.filter((atMs) => nowMs - atMs < PACE_MS), nowMs];
    const [first = nowMs] = this.#shownAtMs;
    const spanMs = nowMs - first;
    const perSecond = spanMs ? Math.round(((this.#shownAtMs.length - 1) / spanMs) * 1_000) : 0;
    this.pace.value = { width: picture.width, height: picture.height, perSecond };
  }
}

export const cameraTool = defineTool({ name: 'camera', begin: (session) => new CameraTool(session) });
