import type { Argument, Command, Option } from 'commander';
import { profileNames, sessionOfSocket, socketsHere } from './home.ts';

/** What a shell does to ask; each asks `porch complete`, so nothing in it grows old. */
const scripts = {
  bash: `_porch() {
  local IFS=$'\\n'
  COMPREPLY=($(porch complete -- "\${COMP_WORDS[@]:1:COMP_CWORD}" 2>/dev/null))
}
complete -o bashdefault -o default -F _porch porch
`,
  zsh: `#compdef porch
_porch() {
  local -a found
  found=("\${(@f)$(porch complete -- "\${(@)words[2,$CURRENT]}" 2>/dev/null)}")
  compadd -a found || _files
}
compdef _porch porch
`,
  fish: `complete -c porch -a '(porch complete -- (commandline -opc)[2..-1] (commandline -ct) 2>/dev/null)'
`,
} as const;
export const completionScript = (shell: keyof typeof scripts): string => scripts[shell];

/** What may stand where the last word is; that word is begun, or empty. Nothing: files are as good as anything. */
export function completionsFor(program: Command, words: readonly string[]): string[] {
  const begun = words.at(-1) ?? '';
  const before = words.slice(0, -1);
  const { command, rest } = commandIn(program, before);
  const valued = optionBefore(command, before.at(-1));
  const found = valued ? valuesOf(valued) : begun.startsWith('-') ? longOptions(command) : wordsOf(command, rest);
  return found.filter((word) => word.startsWith(begun)).sort();
}

/** The command that is called, and the words behind it that are no options and no values of options. */
function commandIn(program: Command, words: readonly string[]): { command: Command; rest: string[] } {
  let command = program;
  const rest: string[] = [];
  for (const [i, word] of words.entries()) {
    if (word.startsWith('-') || optionBefore(command, words[i - 1])) continue;
    const inner = command.commands.find((one) => one.name() === word || one.aliases().includes(word));
    if (inner && !rest.length) command = inner;
    else rest.push(word);
  }
  return { command, rest };
}

/** The option whose value comes next. */
function optionBefore(command: Command, word: string | undefined): Option | undefined {
  if (!word?.startsWith('-')) return undefined;
  const all = [...command.options, ...(command.parent?.options ?? [])];
  const found = all.find(({ long, short }) => long === word || short === word);
  return found?.required || found?.optional ? found : undefined;
}

const longOptions = (command: Command): string[] =>
  command
    .createHelp()
    .visibleOptions(command)
    .flatMap(({ long }) => long ?? []);

function wordsOf(command: Command, rest: readonly string[]): string[] {
  if (command.commands.length)
    return command
      .createHelp()
      .visibleCommands(command)
      .map((one) => one.name());
  const { registeredArguments: expected } = command;
  const last = expected.at(-1);
  const next = expected[rest.length] ?? (last?.variadic ? last : undefined);
  return next ? valuesOf(next) : [];
}

function valuesOf(one: Argument | Option): string[] {
  if (one.argChoices) return one.argChoices;
  const name = one.name();
  if (name === 'session') return socketsHere().map(sessionOfSocket);
  return name === 'profile' ? profileNames() : [];
}
