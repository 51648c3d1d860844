import type { HostPorts } from '@porch/host';

/** What a desktop has for abilities: somebody to ask and a bar always, the rest as far as it goes, with the reason. */
export type DesktopPorts = Pick<
  HostPorts,
  | 'person'
  | 'banner'
  | 'screen'
  | 'hiding'
  | 'ink'
  | 'clipboard'
  | 'shownScreen'
  | 'linesWindow'
  | 'hands'
  | 'handsOff'
  | 'secrets'
  | 'missing'
  | 'onMissingChanged'
>;

/** A desktop to share. Adapters: real X11; others hand in what they have. */
export interface Desktop {
  readonly name: string;
  readonly ports: DesktopPorts;
  /** The monitors as they are now; undefined where they cannot be known. */
  displays?(): Promise<{ readonly name: string; readonly width: number; readonly height: number }[]>;
  /** What its windows are called; undefined where that cannot be known. */
  titles?(): Promise<readonly string[]>;
  /** What it would need for the ports that are missing. */
  readonly lacking: readonly string[];
  onGone(listener: (why: Error) => void): void;
  close(): Promise<void>;
}
