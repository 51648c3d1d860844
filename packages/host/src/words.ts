import type { Language } from '@porch/core';

/** Every word that a host puts on the customer's screen. */
export interface HostWords {
  readonly yes: string;
  readonly no: string;
  readonly technician: string;
  asks(name: string, desk: string): string;
  takesOver(name: string, from: string): string;
  may(first: string, what: string): string;
  forTicket(ref: string, purpose: string): string;
  readonly yourHandsWin: string;
  seesAll(first: string): string;
  readonly leaves: string;
  keepsPictures(first: string): string;
  givesFile(name: string): string;
  wantsFile(name: string): string;
  fetch(path: string, size: string): string;
  readonly anyInFolder: string;
  /** When words were made with more than one program in this session. */
  nthWords(n: number): string;
  take(file: string, size: string): string;
  readonly intoDownloads: string;
  readonly whoCalled: string;
  readonly pretenders: string;
  stopHere(desk: string, phone: string): string;
  readonly iCalled: string;
  readonly theyCalled: string;
  wantsToHelp(name: string, desk: string): string;
  ticket(ref: string, purpose: string): string;
  readonly nothingYet: string;
  /** Where this program is connected to, which nobody who asks can choose. */
  talksTo(address: string): string;
  notMadeFor(madeFor: string, address: string): string;
  readonly begin: string;
  readonly doNotBegin: string;
  sameWords(first: string): string;
  readAloud(first: string): string;
  readonly same: string;
  readonly other: string;
  readonly notCompared: string;
  readonly sees: string;
  readonly seesAndUses: string;
  readonly seesAndMayUse: string;
  readonly wallpaperHidden: string;
  readonly readFirst: string;
  readonly onlyYou: string;
  readonly stop: string;
  /** On the bar, and as the third way of a question. */
  readonly hide: string;
  readonly hideBeforehand: string;
  readonly private: string;
  readonly control: string;
  readonly goOn: string;
  readonly isPrivate: string;
  readonly isAway: string;
  alone(until: string): string;
  readonly hideTitle: string;
  readonly hideNote: string;
  readonly nothingOpen: string;
  readonly done: string;
  readonly cancel: string;
  readonly leaveOut: string;
}

const english: HostWords = {
  yes: 'Yes',
  no: 'No',
  technician: 'A technician',
  asks: (name, desk) => `${name} of ${desk} asks`,
  takesOver: (name, from) => `${name} takes over from ${from}`,
  may: (first, what) => `May ${first} ${what}?`,
  forTicket: (ref, purpose) => `For ticket ${ref}: ${purpose}`,
  yourHandsWin: 'Your own mouse and keyboard always win. Stop is in the bar at the edge of the screen.',
  seesAll: (first) => `${first} will see everything on this screen. Close what is private first.`,
  leaves: 'A file that was fetched leaves this computer. You see the name of each one.',
  keepsPictures: (first) =>
    `What ${first} takes a picture of stays when the session is over. Hidden windows are not in it.`,
  givesFile: (name) => `${name} gives you a file`,
  wantsFile: (name) => `${name} wants to fetch a file`,
  fetch: (path, size) => `“${path}” (${size}) leaves this computer if you say yes.`,
  anyInFolder: 'Any other file in the same folder, too',
  nthWords: (n) =>
    `These are set number ${n} in this session. More than one means that a program began anew. If nobody started theirs again, say that they are not the same.`,
  take: (file, size) => `Take “${file}” (${size})?`,
  intoDownloads: 'It is put into your folder for downloads and is not opened.',
  whoCalled: 'Did you call us, or did somebody call you?',
  pretenders: 'Fraudsters call out of the blue. We call only if you asked us to.',
  stopHere: (desk, phone) =>
    `If somebody called you, we stop here.${phone ? ` The number of ${desk} is ${phone}.` : ''}`,
  iCalled: 'I called them',
  theyCalled: 'They called me',
  wantsToHelp: (name, desk) => `${name} of ${desk} wants to help you`,
  ticket: (ref, purpose) => `Ticket ${ref}: ${purpose}`,
  nothingYet:
    'Nothing is shown yet: you are asked for each thing by itself. What is said and done is written down, and you get a copy.',
  talksTo: (address) => `This program is connected to ${address}.`,
  notMadeFor: (madeFor, address) =>
    `Careful: this program was made for ${madeFor}, but it is connected to ${address}. Say no unless you expected that.`,
  begin: 'Begin',
  doNotBegin: 'Do not begin',
  sameWords: (first) => `Does ${first} say the same check words?`,
  readAloud: (first) =>
    `Ask ${first} to read their check words to you, on the telephone. The same words mean that nobody sits between you. Other words end the session. A passphrase for connecting later is something else: do not read that out.`,
  same: 'The same words',
  other: 'Other words',
  notCompared: 'not checked yet',
  sees: 'sees your screen',
  seesAndUses: 'sees your screen and is using mouse and keyboard',
  seesAndMayUse: 'sees your screen and may use mouse and keyboard',
  wallpaperHidden: 'your wallpaper is hidden meanwhile',
  readFirst: 'Please read first …',
  onlyYou: 'Only you can answer, with your own mouse or keyboard (Tab and Enter).',
  stop: 'Stop',
  hide: 'Hide …',
  hideBeforehand: 'Choose what is not shown …',
  private: 'Private',
  control: 'Ctrl',
  goOn: 'Go on',
  isPrivate: 'sees nothing: you do something private',
  isAway: 'may not use mouse and keyboard now: nobody seems to be here',
  alone: (until) =>
    `Work goes on without you until ${until}. You can take it back from anywhere, on the page or with Stop.`,
  hideTitle: 'What is not to be shown?',
  hideNote: 'Whatever is ticked never leaves this computer: all windows of that program, also new ones.',
  nothingOpen: 'No program has a window open.',
  done: 'Done',
  cancel: 'Change nothing',
  leaveOut: 'You can leave out what you do not want.',
};

const norwegian: HostWords = {
  yes: 'Ja',
  no: 'Nei',
  technician: 'En tekniker',
  asks: (name, desk) => `${name} hos ${desk} spør`,
  takesOver: (name, from) => `${name} tar over etter ${from}`,
  may: (first, what) => `Får ${first} ${what}?`,
  forTicket: (ref, purpose) => `For sak ${ref}: ${purpose}`,
  yourHandsWin: 'Din egen mus og ditt eget tastatur vinner alltid. Stopp står i linjen ved kanten av skjermen.',
  seesAll: (first) => `${first} vil se alt på denne skjermen. Lukk først det som er privat.`,
  leaves: 'En fil som hentes, forlater denne maskinen. Du ser navnet på hver av dem.',
  keepsPictures: (first) => `Det ${first} tar bilde av, blir igjen når økten er over. Skjulte vinduer er ikke med.`,
  givesFile: (name) => `${name} gir deg en fil`,
  wantsFile: (name) => `${name} vil hente en fil`,
  fetch: (path, size) => `«${path}» (${size}) forlater denne maskinen hvis du sier ja.`,
  anyInFolder: 'Også alle andre filer i samme mappe',
  nthWords: (n) =>
    `Dette er sett nummer ${n} i denne økten. Flere enn ett betyr at et program startet på nytt. Har ingen startet sitt på nytt, si at de ikke er like.`,
  take: (file, size) => `Ta imot «${file}» (${size})?`,
  intoDownloads: 'Den legges i mappen for nedlastinger og åpnes ikke.',
  whoCalled: 'Ringte du oss, eller ringte noen deg?',
  pretenders: 'Svindlere ringer uoppfordret. Vi ringer bare hvis du har bedt om det.',
  stopHere: (desk, phone) =>
    `Hvis noen ringte deg, stopper vi her.${phone ? ` Nummeret til ${desk} er ${phone}.` : ''}`,
  iCalled: 'Jeg ringte dem',
  theyCalled: 'De ringte meg',
  wantsToHelp: (name, desk) => `${name} hos ${desk} vil hjelpe deg`,
  ticket: (ref, purpose) => `Sak ${ref}: ${purpose}`,
  nothingYet:
    'Ingenting vises ennå: du blir spurt om hver ting for seg. Det som sies og gjøres, skrives ned, og du får en kopi.',
  talksTo: (address) => `Dette programmet er koblet til ${address}.`,
  notMadeFor: (madeFor, address) =>
    `Pass på: dette programmet er laget for ${madeFor}, men det er koblet til ${address}. Si nei hvis du ikke ventet det.`,
  begin: 'Begynn',
  doNotBegin: 'Ikke begynn',
  sameWords: (first) => `Sier ${first} de samme kontrollordene?`,
  readAloud: (first) =>
    `Be ${first} lese kontrollordene sine for deg på telefonen. De samme ordene betyr at ingen sitter mellom dere. Andre ord avslutter økten. En passfrase for å koble til senere er noe annet: ikke les den opp.`,
  same: 'De samme ordene',
  other: 'Andre ord',
  notCompared: 'ikke kontrollert ennå',
  sees: 'ser skjermen din',
  seesAndUses: 'ser skjermen din og bruker mus og tastatur',
  seesAndMayUse: 'ser skjermen din og får bruke mus og tastatur',
  wallpaperHidden: 'bakgrunnsbildet ditt er skjult imens',
  readFirst: 'Les først …',
  onlyYou: 'Bare du kan svare, med din egen mus eller ditt eget tastatur (Tab og Enter).',
  stop: 'Stopp',
  hide: 'Skjul …',
  hideBeforehand: 'Velg hva som ikke vises …',
  private: 'Privat',
  control: 'Ctrl',
  goOn: 'Videre',
  isPrivate: 'ser ingenting: du gjør noe privat',
  isAway: 'får ikke bruke mus og tastatur nå: ingen ser ut til å være her',
  alone: (until) =>
    `Arbeidet går videre uten deg til ${until}. Du kan ta det tilbake når som helst, på siden eller med Stopp.`,
  hideTitle: 'Hva skal ikke vises?',
  hideNote: 'Det som er krysset av, forlater aldri denne maskinen: alle vinduer i programmet, også nye.',
  nothingOpen: 'Ingen programmer har et vindu åpent.',
  done: 'Ferdig',
  cancel: 'Ikke endre noe',
  leaveOut: 'Du kan la være å ta med det du ikke vil.',
};

const german: HostWords = {
  yes: 'Ja',
  no: 'Nein',
  technician: 'Jemand vom Helpdesk',
  asks: (name, desk) => `${name} von ${desk} fragt`,
  takesOver: (name, from) => `${name} übernimmt von ${from}`,
  may: (first, what) => `Darf ${first} ${what}?`,
  forTicket: (ref, purpose) => `Zum Ticket ${ref}: ${purpose}`,
  yourHandsWin: 'Ihre eigene Maus und Tastatur gehen immer vor. Stopp steht in der Leiste am Rand des Bildschirms.',
  seesAll: (first) => `${first} sieht dann alles auf diesem Bildschirm. Schließen Sie vorher, was privat ist.`,
  leaves: 'Eine geholte Datei verlässt diesen Computer. Sie sehen den Namen jeder einzelnen.',
  keepsPictures: (first) =>
    `Wovon ${first} ein Bild macht, das bleibt nach der Sitzung. Verborgene Fenster sind nicht darauf.`,
  givesFile: (name) => `${name} gibt Ihnen eine Datei`,
  wantsFile: (name) => `${name} möchte eine Datei holen`,
  fetch: (path, size) => `„${path}“ (${size}) verlässt diesen Computer, wenn Sie Ja sagen.`,
  anyInFolder: 'Auch jede andere Datei im selben Ordner',
  nthWords: (n) =>
    `Das ist Satz Nummer ${n} in dieser Sitzung. Mehr als einer bedeutet, dass ein Programm neu begonnen hat. Hat niemand seines neu gestartet, sagen Sie, dass sie nicht gleich sind.`,
  take: (file, size) => `„${file}“ (${size}) annehmen?`,
  intoDownloads: 'Sie kommt in Ihren Ordner für Downloads und wird nicht geöffnet.',
  whoCalled: 'Haben Sie uns angerufen, oder hat jemand Sie angerufen?',
  pretenders: 'Betrüger rufen unaufgefordert an. Wir rufen nur an, wenn Sie uns darum gebeten haben.',
  stopHere: (desk, phone) =>
    `Wenn jemand Sie angerufen hat, hören wir hier auf.${phone ? ` Die Nummer von ${desk} ist ${phone}.` : ''}`,
  iCalled: 'Ich habe angerufen',
  theyCalled: 'Ich wurde angerufen',
  wantsToHelp: (name, desk) => `${name} von ${desk} möchte Ihnen helfen`,
  ticket: (ref, purpose) => `Ticket ${ref}: ${purpose}`,
  nothingYet:
    'Noch wird nichts gezeigt: Sie werden nach jeder Sache einzeln gefragt. Was gesagt und getan wird, wird aufgeschrieben, und Sie bekommen eine Kopie.',
  talksTo: (address) => `Dieses Programm ist mit ${address} verbunden.`,
  notMadeFor: (madeFor, address) =>
    `Vorsicht: Dieses Programm wurde für ${madeFor} gemacht, ist aber mit ${address} verbunden. Sagen Sie Nein, wenn Sie das nicht erwartet haben.`,
  begin: 'Beginnen',
  doNotBegin: 'Nicht beginnen',
  sameWords: (first) => `Sagt ${first} dieselben Prüfwörter?`,
  readAloud: (first) =>
    `Bitten Sie ${first}, Ihnen die Prüfwörter am Telefon vorzulesen. Dieselben Wörter bedeuten, dass niemand dazwischensitzt. Andere Wörter beenden die Sitzung. Eine Passphrase für spätere Zugriffe ist etwas anderes: Lesen Sie die nicht vor.`,
  same: 'Dieselben Wörter',
  other: 'Andere Wörter',
  notCompared: 'noch nicht geprüft',
  sees: 'sieht Ihren Bildschirm',
  seesAndUses: 'sieht Ihren Bildschirm und benutzt Maus und Tastatur',
  seesAndMayUse: 'sieht Ihren Bildschirm und darf Maus und Tastatur benutzen',
  wallpaperHidden: 'Ihr Hintergrundbild ist solange verborgen',
  readFirst: 'Bitte zuerst lesen …',
  onlyYou: 'Nur Sie können antworten, mit Ihrer eigenen Maus oder Tastatur (Tab und Enter).',
  stop: 'Stopp',
  hide: 'Verbergen …',
  hideBeforehand: 'Wählen, was nicht gezeigt wird …',
  private: 'Privat',
  control: 'Strg',
  goOn: 'Weiter',
  isPrivate: 'sieht nichts: Sie tun etwas Privates',
  isAway: 'darf Maus und Tastatur jetzt nicht benutzen: Niemand scheint hier zu sein',
  alone: (until) =>
    `Die Arbeit geht bis ${until} ohne Sie weiter. Sie können es jederzeit zurücknehmen, auf der Seite oder mit Stopp.`,
  hideTitle: 'Was soll nicht gezeigt werden?',
  hideNote: 'Was angekreuzt ist, verlässt diesen Computer nie: alle Fenster des Programms, auch neue.',
  nothingOpen: 'Kein Programm hat ein Fenster offen.',
  done: 'Fertig',
  cancel: 'Nichts ändern',
  leaveOut: 'Sie können weglassen, was Sie nicht möchten.',
};

export const hostWords: Readonly<Record<Language, HostWords>> = { en: english, no: norwegian, de: german };
