import { hashPassword } from '@porch/service/passwords';
import pg from 'pg';

export const PASSWORD = 'harbour-lamp-41';

/** Who works at the desk of Marrowick Ferries. All made up; the password is the demo's alone. */
export const technicians = [
  {
    id: 'odalys',
    name: 'Odalys Brandt',
    team: 'Desk',
    role: 'lead',
    languages: ['en', 'no', 'de'],
    topics: [],
    skills: [],
  },
  {
    id: 'pim',
    name: 'Pim Aldersey',
    team: 'Pier Systems',
    role: 'technician',
    languages: ['en'],
    topics: ['Printing', 'Kiosks and boards'],
    skills: [],
  },
  {
    id: 'rune',
    name: 'Rune Takahashi',
    team: 'Pier Systems',
    role: 'technician',
    languages: ['en', 'no'],
    topics: ['Printing', 'Kiosks and boards', 'Signing in'],
    skills: [],
  },
  {
    id: 'wanjiru',
    name: 'Wanjiru Holt',
    team: 'Ship Systems',
    role: 'technician',
    languages: ['en'],
    topics: ['On board'],
    skills: ['radio'],
  },
  {
    id: 'ilse',
    name: 'Ilse Marchetti',
    team: 'Back Office',
    role: 'technician',
    languages: ['en', 'de'],
    topics: ['Timetable and sheets', 'Signing in'],
    skills: [],
  },
  {
    id: 'noor',
    name: 'Noor Castellane',
    team: 'Pier Systems',
    role: 'trainee',
    languages: ['en'],
    topics: [],
    skills: [],
  },
] as const;

/** Customers of the desk: who has a mailbox and a telephone in the demo's world. */
export const customers = [
  { name: 'Bettina Crole', address: 'bettina.crole@marrowick.example', telephone: '555-0161' },
  { name: 'Samir Oduya', address: 'samir.oduya@marrowick.example', telephone: '555-0162' },
  { name: 'Greta Moss', address: 'greta.moss@marrowick.example', telephone: '555-0163' },
  { name: 'Tomasz Wren', address: 'tomasz.wren@marrowick.example', telephone: '555-0164' },
  { name: 'Ada Quillfeather', address: 'ada.quillfeather@marrowick.example', telephone: '555-0165' },
  { name: 'Jonas Ferreday', address: 'jonas.ferreday@marrowick.example', telephone: '555-0166' },
] as const;

export const emailOf = (name: string): string => `${name.toLowerCase().replace(' ', '.')}@marrowick.example`;

export const deskSettings = {
  PORCH_DESK_NAME: 'Marrowick Ferries',
  PORCH_DESK_PHONE: '555-0142',
  PORCH_TIME_ZONE: 'Europe/Oslo',
  PORCH_MAIL_FROM: 'Marrowick Ferries <desk@marrowick.example>',
  PORCH_TOPICS:
    'Printing | Utskrift | Drucken, Kiosks and boards | Automater og tavler | Automaten und Tafeln, Signing in | Innlogging | Anmelden, Timetable and sheets | Rutetabell og ark | Fahrplan und Tabellen, On board | Om bord | An Bord, Something else | Noe annet | Etwas anderes',
  PORCH_TOPIC_NEEDS: 'On board = Ship Systems',
};

/** Puts the desk's people into the records, once. */
export async function loadTechnicians(databaseUrl: string): Promise<void> {
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    const { rowCount } = await client.query('SELECT 1 FROM "technician" LIMIT 1');
    if (rowCount) return;
    const hash = await hashPassword(PASSWORD);
    for (const team of new Set(technicians.map((t) => t.team)))
      await client.query(`INSERT INTO "team" ("name") VALUES ($1) ON CONFLICT DO NOTHING`, [team]);
    for (const t of technicians)
      await client.query(
        `INSERT INTO "technician" ("id", "name", "email", "team", "role", "languages", "topics", "skills", "password_hash") VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) ON CONFLICT DO NOTHING`,
        [t.id, t.name, emailOf(t.name), t.team, t.role, t.languages, t.topics, t.skills, hash],
      );
  } finally {
    await client.end();
  }
}
