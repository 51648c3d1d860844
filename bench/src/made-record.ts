import pg from 'pg';

/** What the made desk has: technicians in teams, each team with a lead. */
export const TECHNICIANS = 300;
const TEAMS = 12;
/** Seven letters that look like a word's, in SQL: those with low numbers are said often. */
const madeWord = (number: string) => `substr(translate(md5((${number})::text), '0123456789', 'ghijklmnop'), 1, 7)`;
/** Statements that make it all take long: far beyond what a service allows one. */
const MAKING_MS = 30 * 60_000;

/**
 * Sessions as a desk of 300 has them after some years, written as projections would: one in ten about a printer, one in
 * fifty escalated, one in a hundred with files, words by Zipf's law. The passwords are those of the technician `like`.
 */
export async function makeRecord(databaseUrl: string, sessions: number, like: string): Promise<void> {
  const client = new pg.Client({ connectionString: databaseUrl, statement_timeout: MAKING_MS });
  await client.connect();
  try {
    await client.query(`SELECT setseed(0.42)`);
    await client.query(
      `INSERT INTO "technician" ("id", "name", "email", "team", "role", "languages", "topics", "skills", "password_hash")
       SELECT 't' || n, 'Technician ' || n, 't' || n || '@marrowick.example', 'Team ' || n % $2, CASE WHEN n <= $2 THEN 'lead' ELSE 'technician' END,
              '{en}', '{}', '{}', (SELECT "password_hash" FROM "technician" WHERE "email" = $3)
         FROM generate_series(1, $1::int) n`,
      [TECHNICIANS, TEAMS, like],
    );
    await client.query(
      `INSERT INTO "session" ("id", "seq", "head", "aside_seq", "aside_head", "phase", "ticket_ref", "technician_id", "technician_name", "purpose", "customer_name",
              "behind", "has_grants", "outcome", "minutes", "handover_to", "present", "prepared_at", "changed_at", "projected_seq", "behind_in")
       SELECT gen_random_uuid(), 40, '\\x00', 0, '\\x00', phase, CASE WHEN random() < 0.7 THEN 'MF-' || n END, 't' || t, 'Technician ' || t,
              CASE WHEN random() < 0.1 THEN 'The printer prints blank' ELSE 'Something does not work' END, 'Customer ' || floor(random() * 40000), 'ticket', true,
              CASE WHEN phase = 'logged' THEN (ARRAY['resolved','resolved','resolved','worked-around','not-resolved','follow-up','customer-left',CASE WHEN random() < 0.16 THEN 'escalated' ELSE 'resolved' END])[1 + floor(random() * 8)] END,
              1 + floor(random() * 60), NULL, 0, at, at + interval '20 minutes', 40, '{}'
         FROM (SELECT n, 1 + floor(power(random(), 1.5) * $2)::int AS t, CASE WHEN n > $1 - 300 THEN 'live' WHEN random() < 0.01 THEN 'ended' ELSE 'logged' END AS phase,
                      now() - interval '3 years' * (1 - n::float / $1) AS at FROM generate_series(1, $1::int) n) made`,
      [sessions, TECHNICIANS],
    );
    await client.query(
      `INSERT INTO "session_person" SELECT "id", "technician_id", "prepared_at" FROM "session"
       UNION ALL SELECT "id", 't' || 1 + (length("purpose") * 7 + "minutes") % $1, "prepared_at" FROM "session" WHERE "minutes" % 8 = 0 ON CONFLICT DO NOTHING`,
      [TECHNICIANS],
    );
    await client.query(
      `INSERT INTO "session_permission" SELECT s."id", p.name, s."prepared_at" FROM "session" s
         JOIN (VALUES ('view-screen', 0.9), ('control-input', 0.6), ('give-files', 0.02), ('take-screenshot', 0.005)) p(name, share) ON random() + 0 * s."minutes" < p.share`,
    );
    await client.query(
      `INSERT INTO "session_files" SELECT "id", 1, 20000, 0, 0, "prepared_at" FROM "session" WHERE random() < 0.01`,
    );
    await client.query(
      `INSERT INTO "session_words" SELECT s."id", array_to_tsvector(
          (SELECT array_agg(DISTINCT ${madeWord(`floor(power(random(), 4) * 30000)::int`)}) FROM generate_series(1, 24 + s."minutes" * 0))
          || ARRAY['customer', substr(s."customer_name", 10), s."technician_id"]
          || CASE WHEN s."purpose" LIKE '%printer%' THEN ARRAY['printer', 'prints', 'blank'] ELSE ARRAY['something', 'work'] END
          || CASE WHEN s."ticket_ref" IS NULL THEN ARRAY['none'] ELSE ARRAY['mf', substr(s."ticket_ref", 4)] END)
         FROM "session" s`,
    );
    await client.query('VACUUM ANALYZE');
  } finally {
    await client.end();
  }
}
