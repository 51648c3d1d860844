/** The tickets of Marrowick Ferries that the stand-in starts with. Everybody in them is made up. */
export interface Ticket {
  ref: string;
  title: string;
  state: 'open' | 'waiting' | 'closed';
  requester: { name: string; address: string; telephone?: string };
  asset?: string;
  /** What kind of device it is. */
  assetLabel?: string;
  technician: string;
  description: string;
  /** Which delivery made it, so that a repeat makes no second one. */
  madeBy?: string;
  comments: { atMs: number; by: string; text: string }[];
  outcomes: {
    atMs: number;
    outcome: string;
    note: string;
    minutes: number;
    chat: string;
    actions: string;
    sessionId: string;
    ledgerHead: string;
  }[];
}

const people = {
  bettina: { name: 'Bettina Crole', address: 'bettina.crole@marrowick.example', telephone: '555-0161' },
  samir: { name: 'Samir Oduya', address: 'samir.oduya@marrowick.example', telephone: '555-0162' },
  greta: { name: 'Greta Moss', address: 'greta.moss@marrowick.example', telephone: '555-0163' },
  tomasz: { name: 'Tomasz Wren', address: 'tomasz.wren@marrowick.example', telephone: '555-0164' },
  ada: { name: 'Ada Quillfeather', address: 'ada.quillfeather@marrowick.example', telephone: '555-0165' },
  jonas: { name: 'Jonas Ferreday', address: 'jonas.ferreday@marrowick.example', telephone: '555-0166' },
} as const;
const technicians = {
  pim: 'pim.aldersey@marrowick.example',
  rune: 'rune.takahashi@marrowick.example',
  wanjiru: 'wanjiru.holt@marrowick.example',
  ilse: 'ilse.marchetti@marrowick.example',
} as const;

type Row = [
  ref: number,
  title: string,
  who: keyof typeof people,
  asset: string | undefined,
  technician: keyof typeof technicians,
  description: string,
  state?: Ticket['state'],
];
const rows: Row[] = [
  [
    201,
    "Boarding-pass printer cuts the barcode in half since Monday's driver update",
    'bettina',
    'tern-quay-04',
    'pim',
    'The lower half of the barcode is missing on every pass. The gate scanner refuses them and people queue.',
  ],
  [
    202,
    'Timetable sheet opens read-only for me, not for my colleague',
    'greta',
    'timetable-02',
    'ilse',
    'Since the folder was moved I can read the winter timetable but not change it.',
  ],
  [
    203,
    'Car-deck manifest export has the wrong separators',
    'samir',
    'petrel-bridge-1',
    'pim',
    'The harbour office wants semicolons, the export writes commas. It was right until last week.',
  ],
  [
    204,
    "Kiosk shows yesterday's departures after midnight",
    'ada',
    'saltby-kiosk-3',
    'pim',
    'From midnight to about four the board shows the day before.',
  ],
  [205, 'Stores scanner adds every part twice', 'tomasz', 'stores-bench-1', 'ilse', 'One beep, two lines in the list.'],
  [
    206,
    'Tide almanac will not open after signing in',
    'jonas',
    'sandpiper-purser',
    'wanjiru',
    'The window appears and closes again at once.',
  ],
  [
    207,
    'Second screen at the ticket counter stays dark',
    'bettina',
    'tern-quay-02',
    'pim',
    'It works until the computer sleeps.',
  ],
  [
    208,
    'Label printer prints one label too many',
    'tomasz',
    'stores-bench-2',
    'ilse',
    'Always one, whatever number I type.',
  ],
  [
    209,
    'Crew list shows names in the wrong order',
    'samir',
    'petrel-bridge-2',
    'wanjiru',
    'Sorted by first name since the update.',
  ],
  [
    210,
    'Kiosk keyboard types two letters at once',
    'ada',
    'saltby-kiosk-1',
    'pim',
    'Only the letter row, only when it is cold.',
  ],
  [
    211,
    'Cannot sign in to the pay sheet',
    'greta',
    'timetable-02',
    'ilse',
    'It says the password has expired but offers no way to change it.',
  ],
  [
    212,
    'Night report prints on the bridge instead of the purser desk',
    'jonas',
    'sandpiper-purser',
    'wanjiru',
    'The bridge is not amused.',
  ],
  [
    213,
    'Ticket window clock is four minutes late',
    'bettina',
    'tern-quay-01',
    'rune',
    'Passengers notice before we do.',
  ],
  [
    214,
    'Scanner at gate two reads only every third pass',
    'bettina',
    'tern-quay-gate-2',
    'rune',
    'Holding the pass at an angle helps a little.',
  ],
  [
    215,
    'Weather page shows the wrong pier',
    'ada',
    'saltby-kiosk-2',
    'rune',
    'It shows Tern Quay here at Lower Saltby.',
  ],
  [
    216,
    'Fuel log sheet forgets what was typed',
    'samir',
    'petrel-bridge-1',
    'wanjiru',
    'After closing, the last line is gone.',
  ],
  [217, 'Stores list opens very slowly', 'tomasz', 'stores-bench-1', 'ilse', 'About a minute each morning.'],
  [
    218,
    'Sound of the announcement computer crackles',
    'ada',
    'saltby-audio',
    'rune',
    'Mostly during the first announcement of the day.',
  ],
  [219, 'Winter timetable prints without its last column', 'greta', 'timetable-01', 'ilse', 'Sundays are cut off.'],
  [
    220,
    'Passenger count differs between gate and purser',
    'jonas',
    'sandpiper-purser',
    'wanjiru',
    'Always by the number of bicycles.',
  ],
  [
    221,
    'Card reader asks for an update every hour',
    'bettina',
    'tern-quay-03',
    'pim',
    'We press later, it comes back.',
    'waiting',
  ],
  [
    222,
    'Screen at the pier is upside down',
    'ada',
    'saltby-board-1',
    'rune',
    'Since the storm. The cable was changed.',
    'waiting',
  ],
  [223, 'Spare part photos do not load', 'tomasz', 'stores-bench-3', 'ilse', 'A grey square instead.'],
  [
    224,
    'Bridge tablet loses the wireless network at the breakwater',
    'samir',
    'petrel-tablet',
    'wanjiru',
    'Always at the same buoy.',
  ],
  [
    225,
    'Leave calendar shows somebody else',
    'greta',
    'timetable-01',
    'ilse',
    'It opens with the calendar of my predecessor.',
  ],
  [226, 'Lost-property form sends an empty mail', 'jonas', 'sandpiper-purser', 'rune', 'The description is missing.'],
  [
    227,
    'Boarding call plays twice',
    'ada',
    'saltby-audio',
    'rune',
    'Once from the left, once from the right, a second apart.',
    'waiting',
  ],
  [228, 'Car length field takes no half metres', 'bettina', 'tern-quay-04', 'pim', '4.5 becomes 45.'],
  [229, 'Engine stores door code display is dim', 'tomasz', 'stores-door', 'ilse', 'Readable at night only.', 'closed'],
  [
    230,
    'Crew mess computer shows an old safety notice',
    'samir',
    'petrel-mess',
    'wanjiru',
    'The one from last year.',
    'closed',
  ],
  [
    231,
    'Passes come out blank since the roll was changed',
    'bettina',
    'tern-quay-04',
    'rune',
    'The printer feeds, and there is nothing on the paper.',
    'waiting',
  ],
];

/** As the fleet's list of devices has it: some are never to be taken out of the hands of whoever works there. */
const labels: readonly (readonly [part: string, label: string])[] = [
  ['-bridge-', 'bridge'],
  ['-kiosk-', 'kiosk'],
];
function labelled(asset = ''): { assetLabel?: string } {
  const label = labels.find(([part]) => asset.includes(part))?.[1];
  return label ? { assetLabel: label } : {};
}

export function firstTickets(): Ticket[] {
  return rows.map(([number, title, who, asset, technician, description, state]) => ({
    ref: `MF-${number}`,
    title,
    state: state ?? 'open',
    requester: people[who],
    ...(asset ? { asset } : {}),
    ...labelled(asset),
    technician: technicians[technician],
    description,
    comments: [],
    outcomes: [],
  }));
}
