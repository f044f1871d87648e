/** A command, as a shell completes it. */
export interface Word {
  readonly name: string;
  readonly summary: string;
  readonly flags: readonly string[];
}

/** For bash: `complete -F`, as bash(1) has it under Programmable Completion. */
export const bashScript = (words: readonly Word[]): string => `_rootmap() {
  local now=\${COMP_WORDS[COMP_CWORD]} flags=
  COMPREPLY=()
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W "help ${words.map((w) => w.name).join(' ')}" -- "$now"))
    return
  fi
  case \${COMP_WORDS[1]} in
${words.map((w) => `    ${w.name}) flags="${w.flags.join(' ')}" ;;`).join('\n')}
    help) COMPREPLY=($(compgen -W "${words.map((w) => w.name).join(' ')}" -- "$now")); return ;;
  esac
  case $now in
    -*) COMPREPLY=($(compgen -W "$flags" -- "$now")) ;;
    *) compopt -o filenames 2>/dev/null; COMPREPLY=($(compgen -f -- "$now")) ;;
  esac
}
complete -F _rootmap rootmap`;

/** For zsh: a function of its completion system, as zshcompsys(1) has it. */
export const zshScript = (words: readonly Word[]): string => `#compdef rootmap
local -a commands flags
commands=(
${words.map((w) => `  ${quoted(`${w.name}:${w.summary.replaceAll(':', '\\:')}`)}`).join('\n')}
)
if (( CURRENT == 2 )); then
  _describe command commands
  return
fi
case $words[2] in
${words.map((w) => `  ${w.name}) flags=(${w.flags.join(' ')}) ;;`).join('\n')}
  help) _describe command commands; return ;;
esac
if [[ $PREFIX == -* ]]; then compadd -- $flags; else _files; fi`;

const quoted = (text: string): string => `'${text.replaceAll("'", "'\\''")}'`;

/** For PowerShell: Register-ArgumentCompleter; where it gives nothing, the shell completes paths itself. */
export const powershellScript = (words: readonly Word[]): string => `Register-ArgumentCompleter -Native -CommandName rootmap -ScriptBlock {
  param($wordToComplete, $commandAst, $cursorPosition)
  $flags = @{
${words.map((w) => `    '${w.name}' = '${w.flags.join(' ')}'`).join('\n')}
  }
  $typed = @($commandAst.CommandElements | ForEach-Object { $_.ToString() })
  $isFirst = $typed.Count -lt 2 -or ($typed.Count -eq 2 -and $wordToComplete -ne '')
  $choices = if ($isFirst) { @('help') + $flags.Keys } elseif ($wordToComplete -like '-*' -and $flags.ContainsKey($typed[1])) { $flags[$typed[1]] -split ' ' } else { @() }
  $choices | Where-Object { $_ -like "$wordToComplete*" } | Sort-Object | ForEach-Object { [System.Management.Automation.CompletionResult]::new($_, $_, 'ParameterValue', $_) }
}`;
