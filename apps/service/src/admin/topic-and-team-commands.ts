import type { Topic } from '@porch/core';
import type { Command } from 'commander';
import { readPolicy } from '../modules/policy/policy-records.ts';
import { AdminError } from './admin-error.ts';
import { json, listOf, printLine, show, showList, withRecords, type Common } from './shared.ts';
import { addTeam, putTopic, removeTeam, removeTopic, renameTeam } from './topics-and-teams.ts';

interface TopicOptions extends Common {
  readonly nb?: string;
  readonly de?: string;
  readonly team?: string;
  readonly skills?: string;
  readonly place?: string;
}
const MOST_PLACES = 999;

function changeOf({ nb, de, team, skills, place }: TopicOptions) {
  if (place !== undefined && !(/^\d+$/.test(place) && Number(place) >= 1 && Number(place) <= MOST_PLACES))
    throw new AdminError(`--place: “${place}” is no place; 1 is the first`);
  return {
    nb,
    de,
    team,
    skills: skills === undefined ? undefined : listOf(skills),
    place: place === undefined ? undefined : Number(place),
  };
}
const inWords = ({ topic, words, team, skills }: Topic): string =>
  `${topic}  (${words.no}, ${words.de})${team ? `  for ${team}` : ''}${skills.length ? `  needs ${skills.join(', ')}` : ''}`;

export function addTopicCommands(program: Command): void {
  const topic = program
    .command('topic')
    .description('what customers ask for help with; a change counts within seconds')
    .addHelpText(
      'after',
      '\nExamples:\n  porch-admin topic list\n  porch-admin topic add "On board" --nb "Om bord" --de "An Bord" --team "Ship Systems"\n  porch-admin topic change "On board" --skills radio --place 1\n',
    );
  topic
    .command('list', { isDefault: true })
    .description('in the order in which customers read them')
    .addOption(json)
    .action((options: Common) =>
      withRecords(async (records) => {
        const { topics } = await readPolicy(records);
        showList(topics, options, () => topics.forEach((one) => printLine(inWords(one))));
      }),
    );
  for (const isNew of [true, false])
    topic
      .command(isNew ? 'add' : 'change')
      .description(isNew ? 'a new one; it is filed under what it is called in English' : 'what is said of one')
      .argument('<topic>')
      .option('--nb <words>', 'how Norwegian customers read it')
      .option('--de <words>', 'how German customers read it')
      .option('--team <team>', 'whose work it is; "": anybody’s')
      .option('--skills <list>', 'what one has to know for it, with commas between')
      .option('--place <n>', 'where it stands; 1 is the first')
      .addOption(json)
      .action((name: string, options: TopicOptions) =>
        withRecords(async (records) => {
          const done = await putTopic(records, name.trim(), changeOf(options), isNew);
          show(done, options, () => printLine(inWords(done)));
        }),
      );
  topic
    .command('remove')
    .description('no longer to be asked for; what was filed under it stays so')
    .argument('<topic>')
    .addOption(json)
    .action((name: string, options: Common) =>
      withRecords(async (records) => {
        await removeTopic(records, name.trim());
        show({ topic: name.trim(), isRemoved: true }, options, () => printLine(`“${name.trim()}” is gone.`));
      }),
    );
}

export function addTeamCommands(program: Command): void {
  const team = program
    .command('team')
    .description('the teams of the desk')
    .addHelpText(
      'after',
      '\nExamples:\n  porch-admin team add "Ship Systems"\n  porch-admin team rename "Ship Systems" "On Board"\n',
    );
  team
    .command('list', { isDefault: true })
    .description('all of them')
    .addOption(json)
    .action((options: Common) =>
      withRecords(async (records) => {
        const { teams } = await readPolicy(records);
        showList(teams, options, () => teams.forEach(printLine));
      }),
    );
  team
    .command('add')
    .description('a new one')
    .argument('<name>')
    .addOption(json)
    .action((name: string, options: Common) =>
      withRecords(async (records) => {
        await addTeam(records, name);
        show({ team: name, isAdded: true }, options, () => printLine(`There is a team “${name}” now.`));
      }),
    );
  team
    .command('rename')
    .description('with everybody in it, its settings and its topics')
    .argument('<from>')
    .argument('<to>')
    .addOption(json)
    .action((from: string, to: string, options: Common) =>
      withRecords(async (records) => {
        await renameTeam(records, from, to);
        show({ team: to, was: from }, options, () => printLine(`“${from}” is called “${to}” now.`));
      }),
    );
  team
    .command('remove')
    .description('one that nobody is in; its settings go with it')
    .argument('<name>')
    .addOption(json)
    .action((name: string, options: Common) =>
      withRecords(async (records) => {
        await removeTeam(records, name);
        show({ team: name, isRemoved: true }, options, () => printLine(`“${name}” is gone.`));
      }),
    );
}
