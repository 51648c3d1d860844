import type { Command, Option } from 'commander';
import { exitCodes, exitWords } from './exit-codes.ts';

/** Text in roff: nothing in it is a request, hyphens are those that can be copied, and every other letter has its number. */
const roff = (text: string): string =>
  text
    .replaceAll('\\', '\\e')
    .replaceAll('-', '\\-')
    .replace(
      /[^\n -~]/gu,
      (letter) => `\\[u${(letter.codePointAt(0) ?? 0).toString(16).toUpperCase().padStart(4, '0')}]`,
    )
    .replace(/^(?=[.'])/gm, '\\&');

/** The manual page (man(7)), from the commands as they are. */
export function manualOf(program: Command): string {
  const help = program.createHelp();
  const optionsOf = (command: Command) => help.visibleOptions(command).flatMap(optionOf);
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
    ...optionsOf(program),
    '.SH COMMANDS',
    ...help
      .visibleCommands(program)
      .flatMap((command) => [
        '.TP',
        `.B ${roff(`${command.name()} ${command.usage().replace(/^\[options\] ?/, '')}`.trim())}`,
        roff(command.description()),
        '.RS',
        ...optionsOf(command),
        '.RE',
      ]),
    '.SH EXIT STATUS',
    ...Object.entries(exitCodes).flatMap(([name, code]) => [
      '.TP',
      `.B ${code}`,
      roff(exitWords[name as keyof typeof exitCodes]),
    ]),
    '.SH ENVIRONMENT',
    ...[
      ['PORCH_HOME', 'where sign-ins, open sessions and heads of ledgers are kept; ~/.local/state/porch without it'],
      ['PORCH_PROFILE', 'which profile is meant when --profile does not say'],
      ['PORCH_PASSWORD', 'the password of porch sign-in; better is --password-stdin'],
    ].flatMap(([name = '', words = '']) => ['.TP', `.B ${name}`, roff(words)]),
    '',
  ].join('\n');
}

const optionOf = ({ flags, description, defaultValue }: Option): string[] => [
  '.TP',
  `.B ${roff(flags)}`,
  roff(typeof defaultValue === 'string' && defaultValue ? `${description} (${defaultValue})` : description) || '\\&',
];
