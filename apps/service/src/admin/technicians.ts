import { languageOfTag, languageTags } from '@porch/core';
import type { DataSource } from 'typeorm';
import { hashPassword } from '../auth/passwords.ts';
import { SignInEntity, TechnicianEntity, type TechnicianRow } from '../modules/people/people-tables.ts';
import { changePolicy, mustBeTeam, type PolicyRecords } from '../modules/policy/policy-records.ts';
import { AdminError } from './admin-error.ts';
import { listOf } from './shared.ts';

const tags = Object.values(languageTags);

/** Shorter ones are guessed; longer ones need no rules about what is in them. */
export const LEAST_PASSWORD_CHARACTERS = 12;

export interface NewTechnician {
  readonly name: string;
  readonly email: string;
  readonly team: string;
  readonly role: TechnicianRow['role'];
  readonly languages: string;
  readonly topics: string;
  readonly skills: string;
}
const isEmail = (text: string) => /^[^@\s]+@[^@\s]+$/.test(text);

function checkPassword(password: string): void {
  if ([...password].length < LEAST_PASSWORD_CHARACTERS)
    throw new AdminError(`a password has at least ${LEAST_PASSWORD_CHARACTERS} characters`);
}

/** Throws AdminError for what cannot be, and when somebody has that address. */
export async function addTechnician(records: DataSource, who: NewTechnician, password: string): Promise<TechnicianRow> {
  const email = who.email.trim().toLowerCase();
  if (!who.name.trim()) throw new AdminError('say their name with --name');
  if (!isEmail(email)) throw new AdminError(`“${who.email}” is no email address`);
  checkPassword(password);
  const technicians = records.getRepository(TechnicianEntity);
  if (await technicians.existsBy({ email })) throw new AdminError(`somebody has the address ${email} already`);
  const id = await freeId(records, email);
  const passwordHash = await hashPassword(password);
  return changePolicy(records, async (tx, policy) => {
    const row: TechnicianRow = {
      id,
      name: who.name.trim(),
      email,
      role: who.role,
      ...{ team: '', languages: [], topics: [], skills: [] },
      ...knownParts(policy, who),
      passwordHash,
      disabledAt: null,
    };
    await tx.getRepository(TechnicianEntity).insert(row);
    return row;
  });
}

export type TechnicianChange = Partial<
  Pick<NewTechnician, 'name' | 'team' | 'role' | 'languages' | 'topics' | 'skills'>
>;

/** What is not said stays. Throws AdminError, PolicyRefused. */
export const changeTechnician = async (
  records: DataSource,
  email: string,
  { name, role, ...parts }: TechnicianChange,
): Promise<TechnicianRow> => {
  const { id } = await byEmail(records, email);
  if (name?.trim() === '') throw new AdminError('a name says something');
  return changePolicy(records, async (tx, policy) => {
    const technicians = tx.getRepository(TechnicianEntity);
    const change = {
      ...(name === undefined ? {} : { name: name.trim() }),
      ...(role ? { role } : {}),
      ...knownParts(policy, parts),
    };
    if (Object.keys(change).length) await technicians.update({ id }, change);
    return technicians.findOneByOrFail({ id });
  });
};

/** Teams, languages and topics that there are; only those parts that were said. Throws AdminError, PolicyRefused. */
type Parts = Pick<TechnicianRow, 'team' | 'languages' | 'topics' | 'skills'>;

function knownParts(policy: PolicyRecords, { team, languages, topics, skills }: TechnicianChange): Partial<Parts> {
  if (team !== undefined) mustBeTeam(team.trim(), policy);
  const names = policy.topics.map(({ topic }) => topic);
  return {
    ...(team === undefined ? {} : { team: team.trim() }),
    ...(languages === undefined
      ? {}
      : { languages: allOf(languages, tags, 'language').flatMap((tag) => languageOfTag(tag) ?? []) }),
    ...(topics === undefined ? {} : { topics: allOf(topics, names, 'topic') }),
    ...(skills === undefined ? {} : { skills: listOf(skills) }),
  };
}

function allOf<T extends string>(typed: string, known: readonly T[], what: string): T[] {
  return listOf(typed).map((one) => {
    const found = known.find((k) => k === one);
    if (found === undefined) throw new AdminError(`there is no ${what} “${one}”; there are: ${known.join(', ')}`);
    return found;
  });
}

/** The part of the address before the @, with a number behind it when somebody has that. */
async function freeId(records: DataSource, email: string): Promise<string> {
  const stem = (email.split('@')[0] ?? '').replace(/[^a-z0-9.-]/g, '').slice(0, 40) || 'technician';
  for (let n = 1; ; n++) {
    const id = n === 1 ? stem : `${stem}-${n}`;
    if (!(await records.getRepository(TechnicianEntity).existsBy({ id }))) return id;
  }
}

async function byEmail(records: DataSource, email: string): Promise<TechnicianRow> {
  const row = await records.getRepository(TechnicianEntity).findOneBy({ email: email.trim().toLowerCase() });
  if (!row) throw new AdminError(`nobody has the address ${email}`);
  return row;
}

/** Whoever is disabled is out of everything within seconds; what they did stays theirs. */
export async function setDisabled(records: DataSource, email: string, isDisabled: boolean): Promise<TechnicianRow> {
  const row = await byEmail(records, email);
  await records.getRepository(TechnicianEntity).update({ id: row.id }, { disabledAt: isDisabled ? new Date() : null });
  if (isDisabled) await records.getRepository(SignInEntity).delete({ technicianId: row.id });
  return row;
}

/** A new password ends every sign-in that was made with the old one. */
export async function setPassword(records: DataSource, email: string, password: string): Promise<TechnicianRow> {
  checkPassword(password);
  const row = await byEmail(records, email);
  await records.getRepository(TechnicianEntity).update({ id: row.id }, { passwordHash: await hashPassword(password) });
  await records.getRepository(SignInEntity).delete({ technicianId: row.id });
  return row;
}

export function listTechnicians(records: DataSource): Promise<TechnicianRow[]> {
  return records.getRepository(TechnicianEntity).find({ order: { name: 'ASC' } });
}
