import { Option, type Command } from 'commander';
import type { TechnicianRow } from '../modules/people/people-tables.ts';
import {
  fromStdin,
  json,
  printLine,
  printTable,
  readPassword,
  show,
  showList,
  withRecords,
  type Common,
} from './shared.ts';
import {
  addTechnician,
  changeTechnician,
  listTechnicians,
  setDisabled,
  setPassword,
  type TechnicianChange,
} from './technicians.ts';

const viewOf = ({ id, name, email, team, role, disabledAt }: TechnicianRow) => ({
  id,
  name,
  email,
  team,
  role,
  isDisabled: disabledAt !== null,
});

export function addTechnicianCommands(program: Command): void {
  const technician = program.command('technician').description('who works at the desk');
  technician
    .command('add')
    .description('a new technician; they can sign in at once')
    .requiredOption('--name <name>')
    .requiredOption('--email <address>')
    .option('--team <team>', 'their team', 'Desk')
    .addOption(new Option('--role <role>').choices(['technician', 'trainee', 'lead']).default('technician'))
    .option('--languages <list>', 'with commas between: en, nb, de', 'en')
    .option('--topics <list>', 'with commas between; none: all', '')
    .option('--skills <list>', 'with commas between', '')
    .addOption(fromStdin)
    .addOption(json)
    .action(async ({ passwordStdin, ...options }) => {
      const password = await readPassword(passwordStdin ?? false);
      const row = await withRecords((records) => addTechnician(records, options, password));
      show(viewOf(row), options, () => printLine(`${row.name} can sign in now.`));
    });
  for (const [name, isDisabled, words] of [
    ['disable', true, 'is out, of everything, within seconds'],
    ['enable', false, 'can sign in again'],
  ] as const)
    technician
      .command(name)
      .description(isDisabled ? 'end all of their sign-ins, and let them in no more' : 'let them in again')
      .argument('<email>')
      .addOption(json)
      .action(async (email: string, options: Common) => {
        const row = await withRecords((records) => setDisabled(records, email, isDisabled));
        show({ ...viewOf(row), isDisabled }, options, () => printLine(`${row.name} ${words}.`));
      });
  technician
    .command('password')
    .description('a new password; every sign-in with the old one ends')
    .argument('<email>')
    .addOption(fromStdin)
    .addOption(json)
    .action(async (email: string, { passwordStdin, ...options }: Common & { passwordStdin?: boolean }) => {
      const password = await readPassword(passwordStdin ?? false);
      const row = await withRecords((records) => setPassword(records, email, password));
      show(viewOf(row), options, () => printLine(`${row.name} has a new password.`));
    });
  technician
    .command('list', { isDefault: true })
    .description('everybody')
    .addOption(json)
    .action(async (options: Common) => {
      const rows = await withRecords(listTechnicians);
      showList(rows.map(viewOf), options, () => {
        if (!rows.length) printLine('There are none; add one: porch-admin technician add --help');
        printTable(
          ['NAME', 'ADDRESS', 'TEAM', 'ROLE'],
          rows.map((t) => [t.name, t.email, t.team, `${t.role}${t.disabledAt ? ', disabled' : ''}`]),
        );
      });
    });
  addChange(technician);
}

function addChange(technician: Command): void {
  technician
    .command('change')
    .description('another team, role or name, other languages, topics or skills; it counts within seconds')
    .argument('<email>')
    .option('--name <name>')
    .option('--team <team>')
    .addOption(new Option('--role <role>').choices(['technician', 'trainee', 'lead']))
    .option('--languages <list>', 'with commas between: en, nb, de')
    .option('--topics <list>', 'with commas between; "": all')
    .option('--skills <list>', 'with commas between; "": none')
    .addOption(json)
    .action(async (email: string, { json: asJson, ...change }: TechnicianChange & Common) => {
      const row = await withRecords((records) => changeTechnician(records, email, change));
      show(viewOf(row), asJson ? { json: asJson } : {}, () => printLine(`${row.name}: ${row.team}, ${row.role}.`));
    });
}
