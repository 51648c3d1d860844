/** What a customer's program decided and could tell only when it changed nothing any longer. */
export const notedFacts = [
  'a private moment',
  'nobody was there',
  'somebody was there',
  'another desktop was in front',
  'said no to an ask that was closed already',
  'control had started',
  'a screenshot had been taken',
  'a system report had been read',
  'what runs had been looked at',
  'a program had been ended or started',
  'a safe point had been made or used',
  'an action had been run',
  'a command line had been used',
  'administrator rights had been raised',
  'the computer had been restarted',
  'something had been printed',
  'who is signed in had been looked at',
  'somebody at another desktop was asked in',
  'somebody had drawn',
  'something had been copied',
  'somebody had listened',
  'a microphone had been opened',
  'a camera had been seen',
  'a picture had been taken by the camera',
  'what a technician showed had been closed',
  'mouse, keyboard or screen had rested',
  'a password was typed',
  'another part of the screen was chosen',
  'names in a folder had been opened',
  'compared words while another computer was shown',
  'pressed Stop after the end',
  'said again what was told before',
] as const;

export type NotedFact = (typeof notedFacts)[number];
const all: ReadonlySet<string> = new Set(notedFacts);
export const isNotedFact = (what: string): what is NotedFact => all.has(what);
