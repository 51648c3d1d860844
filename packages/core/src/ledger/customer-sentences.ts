import { listOf, type Language } from '../language.ts';
import type { Permission } from '../permission/permission.ts';
import { isNotedFact, notedFacts } from '../session/noted-facts.ts';
import type { PageSource, SessionEvent } from '../session/session-events.ts';
import type { SessionState } from '../session/session-state.ts';
import { formatBytes } from './sizes.ts';

/** What a technician may do, in the customer's words: "Pim may …", "May Pim …?". */
export const customerPermissionWords: Readonly<Record<Language, Readonly<Record<Permission, string>>>> = {
  en: {
    'view-screen': 'see your screen',
    'control-input': 'use your mouse and keyboard',
    'draw-on-screen': 'point and draw on your screen',
    'give-files': 'give you files',
    'fetch-files': 'fetch files from your computer',
    'give-clipboard': 'put something onto your clipboard',
    'read-clipboard': 'read your clipboard',
    'hear-sound': 'hear what your computer plays',
    'speak-together': 'speak with you through the computer',
    'see-camera': 'see through your camera',
    'show-own-screen': 'show you their own screen',
    'read-system-report': 'read a report about your computer',
    'inspect-programs': 'see what programs run on your computer',
    'change-programs': 'stop and start programs and services',
    'take-prints': 'receive your printouts',
    'run-runbook': 'run prepared steps on your computer',
    'use-command-line': 'use a command line on your computer',
    'raise-rights': 'have administrator rights on your computer',
    'restart-computer': 'restart your computer and come back',
    'record-session': 'record this session',
    'cover-screen': 'cover your screen for a moment',
    'block-input': 'block your mouse and keyboard for a moment',
    'work-alone': 'use your mouse and keyboard while you are away',
    'keep-device': 'connect to this computer later',
  },
  no: {
    'view-screen': 'se skjermen din',
    'control-input': 'bruke musen og tastaturet ditt',
    'draw-on-screen': 'peke og tegne på skjermen din',
    'give-files': 'gi deg filer',
    'fetch-files': 'hente filer fra maskinen din',
    'give-clipboard': 'legge noe på utklippstavlen din',
    'read-clipboard': 'lese utklippstavlen din',
    'hear-sound': 'høre lyden fra maskinen din',
    'speak-together': 'snakke med deg gjennom maskinen',
    'see-camera': 'se gjennom kameraet ditt',
    'show-own-screen': 'vise deg sin egen skjerm',
    'read-system-report': 'lese en rapport om maskinen din',
    'inspect-programs': 'se hvilke programmer og tjenester som kjører',
    'change-programs': 'stoppe og starte programmer og tjenester',
    'take-prints': 'motta det du skriver ut',
    'run-runbook': 'kjøre forberedte trinn på maskinen din',
    'use-command-line': 'bruke en kommandolinje på maskinen din',
    'raise-rights': 'ha administratorrettigheter på maskinen din',
    'restart-computer': 'starte maskinen din på nytt og komme tilbake',
    'record-session': 'ta opp denne økten',
    'cover-screen': 'dekke skjermen din en stund',
    'block-input': 'sperre musen og tastaturet ditt en stund',
    'work-alone': 'bruke musen og tastaturet ditt mens du er borte',
    'keep-device': 'koble seg til denne maskinen senere',
  },
  de: {
    'view-screen': 'Ihren Bildschirm sehen',
    'control-input': 'Ihre Maus und Tastatur benutzen',
    'draw-on-screen': 'auf Ihrem Bildschirm zeigen und zeichnen',
    'give-files': 'Ihnen Dateien geben',
    'fetch-files': 'Dateien von Ihrem Computer holen',
    'give-clipboard': 'etwas in Ihre Zwischenablage legen',
    'read-clipboard': 'Ihre Zwischenablage lesen',
    'hear-sound': 'hören, was Ihr Computer abspielt',
    'speak-together': 'durch den Computer mit Ihnen sprechen',
    'see-camera': 'durch Ihre Kamera sehen',
    'show-own-screen': 'Ihnen den eigenen Bildschirm zeigen',
    'read-system-report': 'einen Bericht über Ihren Computer lesen',
    'inspect-programs': 'sehen, welche Programme und Dienste laufen',
    'change-programs': 'Programme und Dienste beenden und starten',
    'take-prints': 'empfangen, was Sie drucken',
    'run-runbook': 'vorbereitete Schritte auf Ihrem Computer ausführen',
    'use-command-line': 'eine Befehlszeile auf Ihrem Computer benutzen',
    'raise-rights': 'Administratorrechte auf Ihrem Computer haben',
    'restart-computer': 'Ihren Computer neu starten und zurückkommen',
    'record-session': 'diese Sitzung aufzeichnen',
    'cover-screen': 'Ihren Bildschirm für kurze Zeit verdecken',
    'block-input': 'Ihre Maus und Tastatur für kurze Zeit sperren',
    'work-alone': 'Ihre Maus und Tastatur benutzen, während Sie weg sind',
    'keep-device': 'später auf diesen Computer zugreifen',
  },
};

const sources: Readonly<Record<Language, Readonly<Record<PageSource, string>>>> = {
  en: {
    browser: 'a tab of your browser',
    window: 'a window',
    monitor: 'your whole screen',
    camera: 'what your camera sees',
    other: 'something from your browser',
  },
  no: {
    browser: 'en fane i nettleseren',
    window: 'et vindu',
    monitor: 'hele skjermen din',
    camera: 'det kameraet ditt ser',
    other: 'noe fra nettleseren',
  },
  de: {
    browser: 'einen Tab Ihres Browsers',
    window: 'ein Fenster',
    monitor: 'Ihren ganzen Bildschirm',
    camera: 'was Ihre Kamera sieht',
    other: 'etwas aus Ihrem Browser',
  },
};

const english = {
  prepared: '{who} prepared this session',
  preparedTicket: '{who} prepared this session from ticket {ticket}',
  ticket: 'This session has the ticket {ticket}',
  codeIssued: 'A code was made',
  codeWithdrawn: 'The code was withdrawn',
  invitationIssued: 'You were asked in',
  invitationFailed: 'A message to you did not arrive',
  invitationWithdrawn: 'A link was withdrawn',
  came: '{who} came in',
  youCamePage: 'You opened this page',
  youCameDoorstep: 'You opened Doorstep',
  left: '{who} left',
  youStartedAgain: 'Your program started again',
  startedAgain: '{who} came back',
  expected: 'This session is for you',
  otherComputer: 'A second Doorstep wants to take the place of the one that is open',
  changedOver: '{who} goes on with the other computer; what you had allowed is over',
  notChangedOver: '{who} stays with this computer',
  endedByItself: 'The session ended by itself, since no technician was there any longer',
  youLeftPage: 'Your page was closed',
  youLeftDoorstep: 'Doorstep was closed',
  introduced: 'You said that you are {name}',
  iCalled: 'You said that you called us yourself',
  theyCalled: 'You said that somebody called you',
  ownPicture: 'You can show something from this page',
  aimLook: 'You only show; nothing has to be installed',
  aimWork: 'Doorstep is wanted, so that {who} can help at your computer',
  shows: 'You show {what}',
  privateOn: 'You do something private; nothing is shown',
  privateOff: 'The private moment is over',
  away: 'Nobody seemed to be at the computer, so nobody may use mouse and keyboard there',
  back: 'You are at the computer again',
  accepted: 'You began the session (privacy notice {version})',
  asked: '{who} asked to {what}',
  askRefused: 'You said no',
  askLapsed: 'You did not answer in time, so nothing was allowed',
  askTakenBack: 'You are not asked for this any longer',
  granted: 'You allowed {who} to {what}',
  grantedStanding: 'By your standing consent {who} may {what}',
  visit: '{who} connected to this computer by your standing consent',
  youTookBack: 'You took back: {who} may not {what} any longer',
  gaveBack: 'That {who} may {what} is over',
  controlStarted: '{who} is using your mouse and keyboard',
  controlStopped: '{who} stopped using your mouse and keyboard ({clicks} clicks, {keys} key presses)',
  screenLost: 'The screen cannot be shown just now',
  wordsSame: 'You compared the check words with {who}: the same',
  wordsDiffer: 'You compared the check words with {who}: not the same',
  said: '{who}: {text}',
  youSaid: 'You: {text}',
  fileOffered: '{who} wants to give you {name} ({size})',
  youOffered: 'You offered {name} ({size})',
  fileAccepted: '{who} takes {name}',
  youAccepted: 'You take {name}',
  fileRefused: '{name} was refused',
  fileCancelled: '{name} was cancelled',
  fileFailed: '{name} did not arrive',
  fileArrived: '{name} is complete',
  handoverAsked: '{who} asked {to} to go on with you',
  handoverAccepted: 'The colleague is ready to go on',
  handoverClosed: '{who} goes on with you after all',
  handedOver: '{to} goes on with you in place of {from}',
  tryAsked: '{who} asked you to try it',
  tryWorks: 'You tried it: it works',
  tryDoesNot: 'You tried it: it does not work',
  tryCannotTell: 'You tried it and cannot tell yet',
  ended: '{who} ended the session',
  youEnded: 'You ended the session',
  youStopped: 'You pressed Stop',
  fraud: 'You said that this felt wrong, and the session stopped',
  logged: '{who} wrote down how it ended',
  noted: 'Noted: {text}',
  erased: 'What was personal in {count} entries was erased',
};
type Key = keyof typeof english;
type Words = Readonly<Record<Key, string>>;

const norwegian: Words = {
  prepared: '{who} forberedte denne økten',
  preparedTicket: '{who} forberedte denne økten fra sak {ticket}',
  ticket: 'Denne økten har sak {ticket}',
  codeIssued: 'En kode ble laget',
  codeWithdrawn: 'Koden ble trukket tilbake',
  invitationIssued: 'Du ble bedt inn',
  invitationFailed: 'En melding til deg kom ikke fram',
  invitationWithdrawn: 'En lenke ble trukket tilbake',
  came: '{who} kom inn',
  youCamePage: 'Du åpnet denne siden',
  youCameDoorstep: 'Du åpnet Doorstep',
  left: '{who} gikk',
  youStartedAgain: 'Programmet ditt startet på nytt',
  startedAgain: '{who} kom tilbake',
  expected: 'Denne økten er for deg',
  otherComputer: 'Enda en Doorstep vil ta over for den som er åpen',
  changedOver: '{who} fortsetter med den andre maskinen; det du hadde tillatt, er over',
  notChangedOver: '{who} blir ved denne maskinen',
  endedByItself: 'Økten ble avsluttet fordi ingen tekniker var der lenger',
  youLeftPage: 'Siden din ble lukket',
  youLeftDoorstep: 'Doorstep ble lukket',
  introduced: 'Du sa at du er {name}',
  iCalled: 'Du sa at du selv ringte oss',
  theyCalled: 'Du sa at noen ringte deg',
  ownPicture: 'Du kan vise noe fra denne siden',
  aimLook: 'Du bare viser; ingenting må installeres',
  aimWork: 'Doorstep trengs, så {who} kan hjelpe på maskinen din',
  shows: 'Du viser {what}',
  privateOn: 'Du gjør noe privat; ingenting vises',
  privateOff: 'Du er ferdig med det private',
  away: 'Ingen så ut til å være ved maskinen, så ingen får bruke mus og tastatur der',
  back: 'Du er ved maskinen igjen',
  accepted: 'Du begynte økten (personverninformasjon {version})',
  asked: '{who} ba om å få {what}',
  askRefused: 'Du sa nei',
  askLapsed: 'Du svarte ikke i tide, så ingenting ble tillatt',
  askTakenBack: 'Du blir ikke spurt om dette lenger',
  granted: 'Du lot {who} {what}',
  grantedStanding: 'Etter din stående tillatelse får {who} {what}',
  visit: '{who} koblet seg til denne maskinen etter din stående tillatelse',
  youTookBack: 'Du tok tilbake: {who} får ikke lenger {what}',
  gaveBack: 'Det er over at {who} får {what}',
  controlStarted: '{who} bruker musen og tastaturet ditt',
  controlStopped: '{who} sluttet å bruke musen og tastaturet ditt ({clicks} klikk, {keys} tastetrykk)',
  screenLost: 'Skjermen kan ikke vises akkurat nå',
  wordsSame: 'Du sammenlignet kontrollordene med {who}: de samme',
  wordsDiffer: 'Du sammenlignet kontrollordene med {who}: ikke de samme',
  said: '{who}: {text}',
  youSaid: 'Du: {text}',
  fileOffered: '{who} vil gi deg {name} ({size})',
  youOffered: 'Du tilbød {name} ({size})',
  fileAccepted: '{who} tar imot {name}',
  youAccepted: 'Du tar imot {name}',
  fileRefused: '{name} ble avvist',
  fileCancelled: '{name} ble avbrutt',
  fileFailed: '{name} kom ikke fram',
  fileArrived: '{name} er fullført',
  handoverAsked: '{who} ba {to} om å fortsette med deg',
  handoverAccepted: 'Kollegaen er klar til å fortsette',
  handoverClosed: '{who} fortsetter med deg likevel',
  handedOver: '{to} fortsetter med deg i stedet for {from}',
  tryAsked: '{who} ba deg prøve',
  tryWorks: 'Du prøvde: det virker',
  tryDoesNot: 'Du prøvde: det virker ikke',
  tryCannotTell: 'Du prøvde og vet ikke ennå',
  ended: '{who} avsluttet økten',
  youEnded: 'Du avsluttet økten',
  youStopped: 'Du trykket Stopp',
  fraud: 'Du sa at dette kjentes galt, og økten stoppet',
  logged: '{who} skrev ned hvordan det gikk',
  noted: 'Notert: {text}',
  erased: 'Det personlige i {count} oppføringer ble slettet',
};

const german: Words = {
  prepared: '{who} hat diese Sitzung vorbereitet',
  preparedTicket: '{who} hat diese Sitzung aus dem Ticket {ticket} vorbereitet',
  ticket: 'Diese Sitzung hat das Ticket {ticket}',
  codeIssued: 'Ein Code wurde erstellt',
  codeWithdrawn: 'Der Code wurde zurückgezogen',
  invitationIssued: 'Sie wurden hereingebeten',
  invitationFailed: 'Eine Nachricht an Sie kam nicht an',
  invitationWithdrawn: 'Ein Link wurde zurückgezogen',
  came: '{who} kam herein',
  youCamePage: 'Sie haben diese Seite geöffnet',
  youCameDoorstep: 'Sie haben Doorstep geöffnet',
  left: '{who} ist gegangen',
  youStartedAgain: 'Ihr Programm wurde neu gestartet',
  startedAgain: '{who} ist wieder da',
  expected: 'Diese Sitzung ist für Sie',
  otherComputer: 'Ein zweites Doorstep will den Platz des offenen einnehmen',
  changedOver: '{who} macht mit dem anderen Computer weiter; was Sie erlaubt hatten, ist vorbei',
  notChangedOver: '{who} bleibt bei diesem Computer',
  endedByItself: 'Die Sitzung wurde beendet, weil kein Techniker mehr da war',
  youLeftPage: 'Ihre Seite wurde geschlossen',
  youLeftDoorstep: 'Doorstep wurde geschlossen',
  introduced: 'Sie haben gesagt, dass Sie {name} sind',
  iCalled: 'Sie haben gesagt, dass Sie uns selbst angerufen haben',
  theyCalled: 'Sie haben gesagt, dass Sie angerufen wurden',
  ownPicture: 'Sie können von dieser Seite aus etwas zeigen',
  aimLook: 'Sie zeigen nur; nichts muss installiert werden',
  aimWork: 'Doorstep wird gebraucht, damit {who} an Ihrem Computer helfen kann',
  shows: 'Sie zeigen {what}',
  privateOn: 'Sie tun etwas Privates; nichts wird gezeigt',
  privateOff: 'Sie sind mit dem Privaten fertig',
  away: 'Niemand schien am Computer zu sein, also darf niemand dort arbeiten',
  back: 'Sie sind wieder am Computer',
  accepted: 'Sie haben die Sitzung begonnen (Datenschutzhinweise {version})',
  asked: '{who} bittet: {what}',
  askRefused: 'Sie haben Nein gesagt',
  askLapsed: 'Sie haben nicht rechtzeitig geantwortet, also wurde nichts erlaubt',
  askTakenBack: 'Danach werden Sie nicht mehr gefragt',
  granted: 'Sie haben {who} erlaubt: {what}',
  grantedStanding: 'Nach Ihrer Dauererlaubnis darf {who} {what}',
  visit: '{who} hat nach Ihrer Dauererlaubnis auf diesen Computer zugegriffen',
  youTookBack: 'Sie haben zurückgenommen: {who} darf nicht mehr {what}',
  gaveBack: 'Dass {who} {what} darf, ist vorbei',
  controlStarted: '{who} benutzt Ihre Maus und Tastatur',
  controlStopped: '{who} benutzt Ihre Maus und Tastatur nicht mehr ({clicks} Klicks, {keys} Tastendrücke)',
  screenLost: 'Der Bildschirm kann gerade nicht gezeigt werden',
  wordsSame: 'Sie haben die Prüfwörter mit {who} verglichen: dieselben',
  wordsDiffer: 'Sie haben die Prüfwörter mit {who} verglichen: nicht dieselben',
  said: '{who}: {text}',
  youSaid: 'Sie: {text}',
  fileOffered: '{who} will Ihnen {name} geben ({size})',
  youOffered: 'Sie haben {name} angeboten ({size})',
  fileAccepted: '{who} nimmt {name} an',
  youAccepted: 'Sie nehmen {name} an',
  fileRefused: '{name} wurde abgelehnt',
  fileCancelled: '{name} wurde abgebrochen',
  fileFailed: '{name} kam nicht an',
  fileArrived: '{name} ist vollständig',
  handoverAsked: '{who} hat {to} gebeten, mit Ihnen weiterzumachen',
  handoverAccepted: 'Die Kollegin oder der Kollege ist bereit',
  handoverClosed: '{who} macht doch mit Ihnen weiter',
  handedOver: '{to} macht mit Ihnen weiter, anstelle von {from}',
  tryAsked: '{who} hat Sie gebeten, es zu versuchen',
  tryWorks: 'Sie haben es versucht: es geht',
  tryDoesNot: 'Sie haben es versucht: es geht nicht',
  tryCannotTell: 'Sie haben es versucht und wissen es noch nicht',
  ended: '{who} hat die Sitzung beendet',
  youEnded: 'Sie haben die Sitzung beendet',
  youStopped: 'Sie haben Stopp gedrückt',
  fraud: 'Sie haben gesagt, dass sich das falsch anfühlt, und die Sitzung wurde beendet',
  logged: '{who} hat aufgeschrieben, wie es ausging',
  noted: 'Notiert: {text}',
  erased: 'Das Persönliche in {count} Einträgen wurde gelöscht',
};
const words: Readonly<Record<Language, Words>> = { en: english, no: norwegian, de: german };

type Told = readonly [key: Key, fields?: Readonly<Record<string, string | number>>];

/** Which sentence an event is for the customer, and what goes into it. */
function toldOf(e: SessionEvent, s: SessionState, language: Language): Told {
  const technician = (id: string): string =>
    id.startsWith('technician:') || id === 'service'
      ? (s.technicianName ?? '…')
      : (s.participants[id]?.name ?? s.technicianName ?? '…');
  const isMine = (id: string) => {
    const role = s.participants[id]?.role;
    return role !== undefined && role !== 'technician';
  };
  const what = (permission: Permission) => customerPermissionWords[language][permission];
  const file = (id: string) => ({ name: s.files[id]?.name ?? '…' });
  switch (e.type) {
    case 'sessionPrepared': {
      const who = e.personal?.technicianName ?? '…';
      return e.ticketRef ? ['preparedTicket', { who, ticket: e.ticketRef }] : ['prepared', { who }];
    }
    case 'customerExpected':
      return ['expected'];
    case 'programStarted':
      return isMine(e.participantId) ? ['youStartedAgain'] : ['startedAgain', { who: technician(e.participantId) }];
    case 'changeOverWanted':
      return ['otherComputer'];
    case 'changeOverAnswered':
      return [e.isYes ? 'changedOver' : 'notChangedOver', { who: technician(e.by) }];
    case 'ticketAttached':
      return ['ticket', { ticket: e.ticketRef }];
    case 'codeIssued':
    case 'codeWithdrawn':
    case 'invitationIssued':
    case 'invitationFailed':
    case 'invitationWithdrawn':
    case 'screenLost':
    case 'handoverAccepted':
      return [e.type];
    case 'participantJoined':
      if (e.role === 'technician') return ['came', { who: e.personal?.name ?? '…' }];
      return [e.role === 'doorstep' ? 'youCameDoorstep' : 'youCamePage'];
    case 'participantLeft':
      if (!isMine(e.participantId)) return ['left', { who: technician(e.participantId) }];
      return [s.participants[e.participantId]?.role === 'doorstep' ? 'youLeftDoorstep' : 'youLeftPage'];
    case 'customerIntroduced':
      return ['introduced', { name: e.personal?.name ?? '…' }];
    case 'callAnswered':
      return [e.answer === 'i-called' ? 'iCalled' : 'theyCalled'];
    case 'ownPictureOffered':
      return ['ownPicture'];
    case 'customerAccepted':
      return ['accepted', { version: e.noticeVersion }];
    case 'aimChosen':
      return e.aim === 'look' ? ['aimLook'] : ['aimWork', { who: technician(e.by) }];
    case 'sourceChosen':
      return ['shows', { what: sources[language][e.what] }];
    case 'privateMoment':
      return [e.isOn ? 'privateOn' : 'privateOff'];
    case 'customerAway':
      return [e.isAway ? 'away' : 'back'];
    case 'visitBegan':
      return ['visit', { who: technician(e.participantId) }];
    case 'permissionsAsked':
      return ['asked', { who: technician(e.participantId), what: listOf(e.permissions.map(what), language) }];
    case 'askClosed':
      return [({ refused: 'askRefused', lapsed: 'askLapsed', 'taken-back': 'askTakenBack' } as const)[e.how]];
    case 'permissionGranted':
      return [
        e.isStanding ? 'grantedStanding' : 'granted',
        { who: technician(e.participantId), what: what(e.permission) },
      ];
    case 'permissionWithdrawn':
      return [
        isMine(e.by) ? 'youTookBack' : 'gaveBack',
        { who: technician(e.participantId), what: what(e.permission) },
      ];
    case 'controlStarted':
      return ['controlStarted', { who: technician(e.participantId) }];
    case 'controlStopped':
      return ['controlStopped', { who: technician(e.participantId), clicks: e.clicks, keys: e.keys }];
    case 'wordsCompared':
      return [e.isSame ? 'wordsSame' : 'wordsDiffer', { who: technician(e.participantId) }];
    case 'chatSent':
      return [isMine(e.by) ? 'youSaid' : 'said', { who: technician(e.by), text: e.personal?.text ?? '…' }];
    case 'fileOffered':
      return [
        isMine(e.fromId) ? 'youOffered' : 'fileOffered',
        { who: technician(e.fromId), name: e.personal?.name ?? '…', size: formatBytes(e.sizeBytes) },
      ];
    case 'fileAccepted':
      return [isMine(e.by) ? 'youAccepted' : 'fileAccepted', { who: technician(e.by), ...file(e.fileId) }];
    case 'fileClosed':
      return [
        ({ refused: 'fileRefused', cancelled: 'fileCancelled', failed: 'fileFailed' } as const)[e.how],
        file(e.fileId),
      ];
    case 'fileArrived':
      return ['fileArrived', file(e.fileId)];
    case 'handoverRequested':
      return ['handoverAsked', { who: technician(e.by), to: e.personal?.toName ?? '…' }];
    case 'handoverClosed':
      return ['handoverClosed', { who: technician(s.leadId ?? e.by) }];
    case 'handedOver':
      return ['handedOver', { to: technician(e.toParticipantId), from: technician(e.fromParticipantId) }];
    case 'tryItAsked':
      return ['tryAsked', { who: technician(e.by) }];
    case 'tryItAnswered':
      return [({ works: 'tryWorks', 'does-not': 'tryDoesNot', 'cannot-tell': 'tryCannotTell' } as const)[e.answer]];
    case 'sessionEnded':
      if (e.reason === 'fraud') return ['fraud'];
      if (e.reason === 'stop') return ['youStopped'];
      if (e.reason === 'nobody') return ['endedByItself'];
      return isMine(e.by) ? ['youEnded'] : ['ended', { who: technician(e.by) }];
    case 'outcomeLogged':
      return ['logged', { who: technician(e.by) }];
    case 'factNoted':
      return ['noted', { text: isNotedFact(e.what) ? notedFacts[e.what][language] : '…' }];
    case 'personErased':
      return ['erased', { count: e.seqs.length }];
  }
}

/** One plain sentence for the customer, in their language, with what was true when it happened. */
export function sentenceForCustomer(event: SessionEvent, stateBefore: SessionState, language: Language): string {
  const [key, fields = {}] = toldOf(event, stateBefore, language);
  return words[language][key].replace(/\{(\w+)\}/g, (_, name: string) => String(fields[name] ?? ''));
}
