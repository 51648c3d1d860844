import type { Command, Option } from 'commander';

/** Text in roff: nothing in it is a request, and hyphens are those that can be copied. */
const roff = (text: string): string =>
  text
    .replaceAll('\\', '\\e')
    .replaceAll('-', '\\-')
    .replace(/^(?=[.'])/gm, '\\&');

const exits = [
  ['0', 'done'],
  ['1', 'refused: by the customer, the desk or the state of the session; the message says why'],
  ['2', 'called wrongly'],
  ['3', 'sign in first, or the sign-in was wrong'],
  ['4', 'the service cannot be reached'],
  ['5', 'no such session, entry or handover'],
  ['6', 'the ledger is broken; the message says where'],
] as const;

/** The manual page (man(7)), from the commands as they are. */
export function manualOf(program: Command): string {
  const shown = program.commands.filter((one) => !(one as unknown as { _hidden: boolean })._hidden);
  return [
    '.TH PORCH 1',
    '.SH NAME',
    `porch \\- ${roff('attended support sessions from the terminal')}`,
    '.SH SYNOPSIS',
    '.B porch',
    roff('[--profile NAME] COMMAND [options] [words]'),
    '.SH DESCRIPTION',
    roff(program.description()),
    '.SH OPTIONS',
    ...program.options.flatMap(optionOf),
    '.SH COMMANDS',
    ...shown.flatMap((command) => [
      '.TP',
      `.B ${roff(`${command.name()} ${command.usage().replace(/^\[options\] ?/, '')}`.trim())}`,
      roff(command.description()),
      '.RS',
      ...command.options.flatMap(optionOf),
      '.RE',
    ]),
    '.SH EXIT STATUS',
    ...exits.flatMap(([code, words]) => ['.TP', `.B ${code}`, roff(words)]),
    '.SH ENVIRONMENT',
    ...[
      ['PORCH_HOME', 'where sign-ins, open sessions and heads of ledgers are kept; ~/.local/state/porch without it'],
      ['PORCH_PROFILE', 'which profile is meant when --profile does not say'],
      ['PORCH_PASSWORD', 'the password of porch sign-in; better is --password-stdin'],
    ].flatMap(([name = '', words = '']) => ['.TP', `.B ${name}`, roff(words)]),
    '',
  ].join('\n');
}

const optionOf = ({ flags, description, hidden, defaultValue }: Option): string[] =>
  hidden
    ? []
    : [
        '.TP',
        `.B ${roff(flags)}`,
        roff(typeof defaultValue === 'string' && defaultValue ? `${description} (${defaultValue})` : description) ||
          '\\&',
      ];
