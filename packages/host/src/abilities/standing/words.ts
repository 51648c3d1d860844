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
  keepTitle: (name) => `May ${name} and colleagues connect to this computer later?`,
  keepFor: (desk, device) => `This is a standing consent for ${desk}. The computer is called “${device}” there.`,
  keepSecret: 'Nobody gets in by it without a passphrase that only you have.',
  keepTick: 'Tick what is allowed at a remote visit:',
  askEachVisit: 'ask whoever sits here before each remote visit',
  goOn: 'Go on',
  howLong: 'For how long?',
  endsByItself: 'Then it ends by itself. You can end it here at any time, in one step.',
  days: (days) => (days === 1 ? '1 day' : `${days} days`),
  secretTitle: 'This passphrase lets the desk connect later',
  secretNote:
    'Write it down: it is not shown again. Give it only to somebody of the desk whom you want here, and never when you are asked to compare check words.',
  secretTries: 'After five wrong tries only a yes at this computer lets anybody in.',
  haveThem: 'I have it',
  doNotKeep: 'No, not later',
  otherWords: 'Another one …',
  wantsToVisit: (name, desk) => `${name} of ${desk} wants to connect to this computer`,
  mayThen: (what) => `Allowed then: ${what}.`,
  isAtTheDoor: 'wants to connect to this computer; nothing is shown',
  visits: 'is connected to this computer, as you allowed; nothing is shown yet',
  whoMay: 'Who may connect to this computer later?',
  mayReach: (desk, device, days) => `${desk} may, as “${device}”, for ${days} more.`,
  asksEach: 'Each remote visit is asked for here first.',
  asksNone: 'A remote visit may begin while nobody is here.',
  locked: 'The passphrase was wrong five times: only a yes here lets anybody in.',
  noVisits: 'There was no remote visit yet.',
  notBegun: 'was not let in',
  keepIt: 'Keep it',
  endIt: 'End it now',
};

const norwegian: DeviceWords = {
  keepTitle: (name) => `Får ${name} og kolleger koble seg til denne maskinen senere?`,
  keepFor: (desk, device) => `Dette er en stående tillatelse for ${desk}. Der heter maskinen «${device}».`,
  keepSecret: 'Ingen kommer inn uten passfrasen, som bare du har.',
  keepTick: 'Kryss av for hva som er tillatt ved et fjernbesøk:',
  askEachVisit: 'spør den som sitter her før hvert fjernbesøk',
  goOn: 'Videre',
  howLong: 'Hvor lenge?',
  endsByItself: 'Så slutter den av seg selv. Du kan avslutte den her når som helst, i ett steg.',
  days: (days) => (days === 1 ? '1 dag' : `${days} dager`),
  secretTitle: 'Med denne passfrasen kan noen koble seg til senere',
  secretNote:
    'Skriv den ned: den vises ikke igjen. Gi den bare til noen i brukerstøtten som du vil ha her, og aldri når du blir bedt om å sammenligne kontrollord.',
  secretTries: 'Etter fem feil forsøk slipper bare et ja ved denne maskinen noen inn.',
  haveThem: 'Jeg har den',
  doNotKeep: 'Nei, ikke senere',
  otherWords: 'En annen …',
  wantsToVisit: (name, desk) => `${name} hos ${desk} vil koble seg til denne maskinen`,
  mayThen: (what) => `Tillatt da: ${what}.`,
  isAtTheDoor: 'vil koble seg til denne maskinen; ingenting vises',
  visits: 'er koblet til denne maskinen, som du tillot; ingenting vises ennå',
  whoMay: 'Hvem kan koble seg til denne maskinen senere?',
  mayReach: (desk, device, days) => `${desk} kan, som «${device}», i ${days} til.`,
  asksEach: 'Det spørres her før hvert fjernbesøk.',
  asksNone: 'Et fjernbesøk kan begynne mens ingen er her.',
  locked: 'Passfrasen var feil fem ganger: bare et ja her slipper noen inn.',
  noVisits: 'Det har ikke vært noe fjernbesøk ennå.',
  notBegun: 'ble ikke sluppet inn',
  keepIt: 'Behold den',
  endIt: 'Avslutt nå',
};

const german: DeviceWords = {
  keepTitle: (name) => `Dürfen ${name} und andere vom Helpdesk später auf diesen Computer zugreifen?`,
  keepFor: (desk, device) => `Das ist eine Dauererlaubnis für ${desk}. Der Computer heißt dort „${device}“.`,
  keepSecret: 'Niemand kommt herein ohne die Passphrase, die nur Sie haben.',
  keepTick: 'Kreuzen Sie an, was bei einem Zugriff erlaubt ist:',
  askEachVisit: 'vor jedem Zugriff hier um Erlaubnis fragen',
  goOn: 'Weiter',
  howLong: 'Für wie lange?',
  endsByItself: 'Danach endet sie von selbst. Sie können sie hier jederzeit beenden, in einem Schritt.',
  days: (days) => (days === 1 ? '1 Tag' : `${days} Tage`),
  secretTitle: 'Mit dieser Passphrase kann jemand später zugreifen',
  secretNote:
    'Schreiben Sie sie auf: Sie wird nicht wieder gezeigt. Geben Sie sie nur jemandem vom Helpdesk, den Sie hier haben wollen, und nie, wenn Sie Prüfwörter vergleichen sollen.',
  secretTries: 'Nach fünf falschen Versuchen lässt nur ein Ja an diesem Computer jemanden ein.',
  haveThem: 'Ich habe sie',
  doNotKeep: 'Nein, nicht später',
  otherWords: 'Eine andere …',
  wantsToVisit: (name, desk) => `${name} von ${desk} möchte auf diesen Computer zugreifen`,
  mayThen: (what) => `Dann erlaubt: ${what}.`,
  isAtTheDoor: 'möchte auf diesen Computer zugreifen; nichts wird gezeigt',
  visits: 'ist mit diesem Computer verbunden, wie Sie es erlaubt haben; noch wird nichts gezeigt',
  whoMay: 'Wer darf später auf diesen Computer zugreifen?',
  mayReach: (desk, device, days) => `${desk} darf es, als „${device}“, noch ${days}.`,
  asksEach: 'Vor jedem Zugriff wird hier gefragt.',
  asksNone: 'Ein Zugriff kann beginnen, während niemand hier ist.',
  locked: 'Die Passphrase war fünfmal falsch: Nur ein Ja hier lässt jemanden ein.',
  noVisits: 'Es gab noch keinen Zugriff.',
  notBegun: 'wurde nicht eingelassen',
  keepIt: 'Behalten',
  endIt: 'Jetzt beenden',
};

export const deviceWords: Readonly<Record<Language, DeviceWords>> = { en: english, no: norwegian, de: german };
