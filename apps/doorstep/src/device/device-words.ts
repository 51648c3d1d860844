import type { Language } from '@porch/core';

/** Every word about standing consents and visits. */
export interface DeviceWords {
  keepTitle(name: string): string;
  keepFor(desk: string, device: string): string;
  readonly keepSecret: string;
  readonly keepTick: string;
  readonly askEachVisit: string;
  readonly goOn: string;
  readonly howLong: string;
  readonly endsByItself: string;
  days(days: number): string;
  readonly secretTitle: string;
  readonly secretNote: string;
  readonly secretTries: string;
  readonly haveThem: string;
  readonly doNotKeep: string;
  readonly otherWords: string;
  wantsToVisit(name: string, desk: string): string;
  mayThen(what: string): string;
  readonly isAtTheDoor: string;
  readonly visits: string;
  readonly whoMay: string;
  mayReach(desk: string, device: string, days: string): string;
  readonly asksEach: string;
  readonly asksNone: string;
  readonly locked: string;
  readonly noVisits: string;
  readonly notBegun: string;
  readonly keepIt: string;
  readonly endIt: string;
}

const english: DeviceWords = {
  keepTitle: (name) => `May ${name} and colleagues reach this computer later?`,
  keepFor: (desk, device) => `This is a standing consent for ${desk}. The computer is called “${device}” there.`,
  keepSecret: 'Nobody gets in by it without a passphrase that only you have and give away.',
  keepTick: 'Tick what is allowed at a visit:',
  askEachVisit: 'ask whoever sits here before each visit',
  goOn: 'Go on',
  howLong: 'For how long?',
  endsByItself: 'Then it ends by itself. You can end it here at any time, in one step.',
  days: (days) => (days === 1 ? '1 day' : `${days} days`),
  secretTitle: 'This passphrase lets a visit in',
  secretNote:
    'Write it down: it is not shown again. Give it only to somebody of the desk whom you want here, and never when you are asked to compare check words.',
  secretTries: 'After five wrong tries only a yes at this computer lets anybody in.',
  haveThem: 'I have it',
  doNotKeep: 'No visits',
  otherWords: 'Another one …',
  wantsToVisit: (name, desk) => `${name} of ${desk} wants to visit this computer`,
  mayThen: (what) => `Allowed at a visit: ${what}.`,
  isAtTheDoor: 'is at the door of this computer; nothing is shown',
  visits: 'visits this computer, as you allowed; nothing is shown yet',
  whoMay: 'Who may reach this computer?',
  mayReach: (desk, device, days) => `${desk} may, as “${device}”, for ${days} more.`,
  asksEach: 'Each visit is asked for here first.',
  asksNone: 'A visit may begin while nobody is here.',
  locked: 'The passphrase was wrong five times: only a yes here lets anybody in.',
  noVisits: 'There was no visit yet.',
  notBegun: 'was not let in',
  keepIt: 'Keep it',
  endIt: 'End it now',
};

const norwegian: DeviceWords = {
  keepTitle: (name) => `Får ${name} og kolleger nå denne maskinen senere?`,
  keepFor: (desk, device) => `Dette er en stående tillatelse for ${desk}. Der heter maskinen «${device}».`,
  keepSecret: 'Ingen kommer inn med den uten en passfrase som bare du har og gir bort.',
  keepTick: 'Kryss av for hva som er tillatt ved et besøk:',
  askEachVisit: 'spør den som sitter her før hvert besøk',
  goOn: 'Videre',
  howLong: 'Hvor lenge?',
  endsByItself: 'Så slutter den av seg selv. Du kan avslutte den her når som helst, i ett steg.',
  days: (days) => (days === 1 ? '1 dag' : `${days} dager`),
  secretTitle: 'Denne passfrasen slipper et besøk inn',
  secretNote:
    'Skriv den ned: den vises ikke igjen. Gi den bare til noen i hjelpetjenesten som du vil ha her, og aldri når du blir bedt om å sammenligne kontrollord.',
  secretTries: 'Etter fem gale forsøk slipper bare et ja ved denne maskinen noen inn.',
  haveThem: 'Jeg har den',
  doNotKeep: 'Ingen besøk',
  otherWords: 'En annen …',
  wantsToVisit: (name, desk) => `${name} hos ${desk} vil besøke denne maskinen`,
  mayThen: (what) => `Tillatt ved et besøk: ${what}.`,
  isAtTheDoor: 'står ved døren til denne maskinen; ingenting vises',
  visits: 'besøker denne maskinen, som du tillot; ingenting vises ennå',
  whoMay: 'Hvem får nå denne maskinen?',
  mayReach: (desk, device, days) => `${desk} får det, som «${device}», i ${days} til.`,
  asksEach: 'Det spørres her før hvert besøk.',
  asksNone: 'Et besøk kan begynne mens ingen er her.',
  locked: 'Passfrasen var gal fem ganger: bare et ja her slipper noen inn.',
  noVisits: 'Det har ikke vært noe besøk ennå.',
  notBegun: 'ble ikke sluppet inn',
  keepIt: 'Behold den',
  endIt: 'Avslutt nå',
};

const german: DeviceWords = {
  keepTitle: (name) => `Darf ${name} mit Kollegen diesen Computer später erreichen?`,
  keepFor: (desk, device) => `Das ist eine Dauererlaubnis für ${desk}. Der Computer heißt dort „${device}“.`,
  keepSecret: 'Niemand kommt damit herein ohne eine Passphrase, die nur Sie haben und weitergeben.',
  keepTick: 'Kreuzen Sie an, was bei einem Besuch erlaubt ist:',
  askEachVisit: 'vor jedem Besuch fragen, wer hier sitzt',
  goOn: 'Weiter',
  howLong: 'Für wie lange?',
  endsByItself: 'Dann endet sie von selbst. Sie können sie hier jederzeit beenden, in einem Schritt.',
  days: (days) => (days === 1 ? '1 Tag' : `${days} Tage`),
  secretTitle: 'Diese Passphrase lässt einen Besuch ein',
  secretNote:
    'Schreiben Sie sie auf: sie wird nicht wieder gezeigt. Geben Sie sie nur jemandem vom Helpdesk, den Sie hier haben wollen, und nie, wenn Sie Prüfwörter vergleichen sollen.',
  secretTries: 'Nach fünf falschen Versuchen lässt nur ein Ja an diesem Computer jemanden ein.',
  haveThem: 'Ich habe sie',
  doNotKeep: 'Keine Besuche',
  otherWords: 'Eine andere …',
  wantsToVisit: (name, desk) => `${name} von ${desk} möchte diesen Computer besuchen`,
  mayThen: (what) => `Bei einem Besuch erlaubt: ${what}.`,
  isAtTheDoor: 'steht an der Tür dieses Computers; nichts wird gezeigt',
  visits: 'besucht diesen Computer, wie Sie es erlaubt haben; noch wird nichts gezeigt',
  whoMay: 'Wer darf diesen Computer erreichen?',
  mayReach: (desk, device, days) => `${desk} darf es, als „${device}“, noch ${days}.`,
  asksEach: 'Vor jedem Besuch wird hier gefragt.',
  asksNone: 'Ein Besuch kann beginnen, während niemand hier ist.',
  locked: 'Die Passphrase war fünfmal falsch: nur ein Ja hier lässt jemanden ein.',
  noVisits: 'Es gab noch keinen Besuch.',
  notBegun: 'wurde nicht eingelassen',
  keepIt: 'Behalten',
  endIt: 'Jetzt beenden',
};

export const deviceWords: Readonly<Record<Language, DeviceWords>> = { en: english, no: norwegian, de: german };
