import { contradictionsIn, DESK_TEAM, Topic } from '@porch/core';
import type { DataSource, EntityManager } from 'typeorm';
import { TechnicianEntity } from '../modules/people/people-tables.ts';
import { changePolicy, mustBeTeam, type PolicyRecords } from '../modules/policy/policy-records.ts';
import { SettingEntity, TeamEntity, TopicEntity } from '../modules/policy/policy-tables.ts';
import { AdminError } from './admin-error.ts';

export interface TopicChange {
  readonly nb?: string | undefined;
  readonly de?: string | undefined;
  /** Empty: nobody's in particular. */
  readonly team?: string | undefined;
  readonly skills?: readonly string[] | undefined;
  /** From 1. */
  readonly place?: number | undefined;
}

/** Adds a topic, or changes what is said of one. Throws AdminError, PolicyRefused. */
export const putTopic = (records: DataSource, topic: string, change: TopicChange, isNew: boolean): Promise<Topic> =>
  changePolicy(records, async (tx, before) => {
    const known = before.topics.find((one) => one.topic === topic);
    if (isNew && known) throw new AdminError(`there is a topic “${topic}” already; porch-admin topic change alters it`);
    if (!isNew && !known) throw noTopic(topic, before);
    if (change.team) mustBeTeam(change.team, before);
    const { words, team, skills } = known ?? {
      words: { en: topic, no: topic, de: topic },
      team: undefined,
      skills: [],
    };
    const read = Topic.safeParse({
      topic,
      words: { en: topic, no: change.nb ?? words.no, de: change.de ?? words.de },
      team: (change.team ?? team) || undefined,
      skills: change.skills ?? skills,
    });
    if (!read.success)
      throw new AdminError(read.error.issues.map((i) => `${i.path.join('.')}: ${i.message}`).join('; '));
    const order = before.topics.map((one) => one.topic).filter((one) => one !== topic);
    const wasAt = known ? before.topics.indexOf(known) : order.length;
    order.splice(change.place === undefined ? wasAt : change.place - 1, 0, topic);
    const { data } = read;
    await tx.getRepository(TopicEntity).save({
      topic,
      place: 0,
      words: data.words,
      team: data.team ?? null,
      skills: data.skills,
    });
    await inOrder(tx, order);
    return data;
  });

/** Throws AdminError: a desk without topics has nothing to ask for. */
export const removeTopic = (records: DataSource, topic: string): Promise<void> =>
  changePolicy(records, async (tx, before) => {
    if (!before.topics.some((one) => one.topic === topic)) throw noTopic(topic, before);
    if (before.topics.length === 1) throw new AdminError('the last topic stays: customers choose one of them');
    await tx.getRepository(TopicEntity).delete({ topic });
  });

export const addTeam = (records: DataSource, name: string): Promise<void> =>
  changePolicy(records, async (tx, { teams }) => {
    const clean = teamName(name);
    if (teams.includes(clean)) throw new AdminError(`there is a team “${clean}” already`);
    await tx.getRepository(TeamEntity).insert({ name: clean });
  });

/** With everybody in it, its settings and its topics. */
export const renameTeam = (records: DataSource, from: string, to: string): Promise<void> =>
  changePolicy(records, async (tx, before, nowMs) => {
    const clean = teamName(to);
    mustBeOrdinary(from, before);
    if (before.teams.includes(clean)) throw new AdminError(`there is a team “${clean}” already`);
    await tx.getRepository(TeamEntity).insert({ name: clean });
    await tx.getRepository(TechnicianEntity).update({ team: from }, { team: clean });
    await tx.getRepository(SettingEntity).update({ team: from }, { team: clean });
    await tx.getRepository(TopicEntity).update({ team: from }, { team: clean });
    await tx.getRepository(TeamEntity).delete({ name: from });
    mustNotBeNamed(from, before, nowMs);
  });

/** Throws AdminError while anybody or anything is still of it. Its settings go with it. */
export const removeTeam = (records: DataSource, name: string): Promise<void> =>
  changePolicy(records, async (tx, before, nowMs) => {
    mustBeOrdinary(name, before);
    const people = await tx.getRepository(TechnicianEntity).findBy({ team: name });
    if (people.length)
      throw new AdminError(`${people.map((one) => one.name).join(', ')}: still in it; porch-admin technician change`);
    const topic = before.topics.find(({ team }) => team === name);
    if (topic)
      throw new AdminError(`“${topic.topic}” is its work; porch-admin topic change “${topic.topic}” --team ""`);
    mustNotBeNamed(name, before, nowMs);
    await tx.getRepository(SettingEntity).delete({ team: name });
    await tx.getRepository(TeamEntity).delete({ name });
  });

function teamName(name: string): string {
  const read = Topic.shape.topic.safeParse(name);
  if (!read.success) throw new AdminError(`“${name}”: ${read.error.issues.map((i) => i.message).join('; ')}`);
  return read.data;
}

function mustBeOrdinary(name: string, before: PolicyRecords): void {
  mustBeTeam(name, before);
  if (name === DESK_TEAM) throw new AdminError(`“${DESK_TEAM}” stays: its leads lead the whole desk`);
}

/** What names a team in a text is changed by whoever wrote it. */
function mustNotBeNamed(name: string, { book, teams }: PolicyRecords, nowMs: number): void {
  const around = { teams: teams.filter((one) => one !== name), hasDirectory: true };
  const wrong = contradictionsIn(book.policyFor(undefined, nowMs), around).find(({ nobody }) => nobody === name);
  if (wrong) throw new AdminError(`${wrong.settings.join(', ')} names it; change that first: porch-admin setting set`);
}

const noTopic = (topic: string, { topics }: PolicyRecords): AdminError =>
  new AdminError(`there is no topic “${topic}”; there are: ${topics.map((one) => one.topic).join(', ')}`);

async function inOrder(tx: EntityManager, order: readonly string[]): Promise<void> {
  for (const [place, topic] of order.entries()) await tx.getRepository(TopicEntity).update({ topic }, { place });
}
