import { z } from 'zod';

/* What technicians choose for themselves alone: it goes with the person, to whatever computer they sit at. */

/** Whose keyboard somebody sits at: modifiers have their places, and their meaning, by it. */
export const keyboardSystems = ['windows', 'apple', 'linux'] as const;
export const KeyboardSystem = z.enum(keyboardSystems);
export type KeyboardSystem = z.infer<typeof KeyboardSystem>;

/** Keys that can be another one at the customer's computer, by their names in the W3C UI Events `KeyboardEvent.key` table. */
export const mappableKeys = ['Control', 'Alt', 'Meta', 'CapsLock', 'ContextMenu'] as const;
export const MappableKey = z.enum(mappableKeys);
export type MappableKey = z.infer<typeof MappableKey>;
/** What they can be there. */
export const keyMeanings = ['Control', 'Alt', 'Meta', 'Escape', 'ContextMenu', 'nothing'] as const;
export const KeyMeaning = z.enum(keyMeanings);
export type KeyMeaning = z.infer<typeof KeyMeaning>;

/** A key that is not named means itself. */
export const KeyMap = z.partialRecord(MappableKey, KeyMeaning);
export type KeyMap = z.infer<typeof KeyMap>;

/** Keys that can be kept for this program: pressed at the stage they open its own acts, and the customer's computer never gets them. */
export const leaderKeys = ['F7', 'F8', 'F9', 'F10', 'F12', 'Pause', 'ScrollLock', 'none'] as const;
export const LeaderKey = z.enum(leaderKeys);
export type LeaderKey = z.infer<typeof LeaderKey>;

export type TouchWay = Preferences['touch'];
export const Preferences = z.strictObject({
  /** For each kind of keyboard somebody sits at; one without an entry has the map that suits it. */
  keyMaps: z.partialRecord(KeyboardSystem, KeyMap).default({}),
  leaderKey: LeaderKey.default('F8'),
  /** Turning the wheel moves the other way than it does on their own computer. */
  isWheelReversed: z.boolean().default(false),
  /** What a finger on the picture does: what is under it, or what a pointer is led to with it. */
  touch: z.enum(['finger', 'pointer']).default('finger'),
});
export type Preferences = z.infer<typeof Preferences>;
export const firstPreferences: Preferences = Preferences.parse({});

/** Where Command does what Control does elsewhere, hands press it without thinking. */
const suitable: Readonly<Record<KeyboardSystem, KeyMap>> = { windows: {}, linux: {}, apple: { Meta: 'Control' } };
export const keyMapFor = ({ keyMaps }: Preferences, system: KeyboardSystem): KeyMap =>
  keyMaps[system] ?? suitable[system];
