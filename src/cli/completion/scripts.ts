/** The shells that commands can be completed in. */
export const shells = ['bash', 'zsh', 'fish'] as const;

/** A shell. */
export type Shell = (typeof shells)[number];

/**
 * A script for each shell. It asks the program for the words that can stand at the cursor, one a line, with a tab before
 * the description; the line `:files` stands for file names. The program is that on the path, or else that of the project.
 */
export const completionScripts: Readonly<Record<Shell, string>> = {
  bash: `# Completes loyal-anvil in bash.
_loyal_anvil() {
  local program value
  program=$(type -P loyal-anvil || echo ./node_modules/.bin/loyal-anvil)
  COMPREPLY=()
  while IFS=$'\\t' read -r value _; do
    if [[ $value == :files ]]; then
      compopt -o default
    elif [[ -n $value ]]; then
      COMPREPLY+=("$value")
    fi
  done < <("$program" completion --for -- "\${COMP_WORDS[@]:1:COMP_CWORD}" 2>/dev/null)
}
complete -F _loyal_anvil loyal-anvil
`,
  zsh: `#compdef loyal-anvil
# Completes loyal-anvil in zsh.
_loyal_anvil() {
  local program line
  local -a found
  program=\${commands[loyal-anvil]:-./node_modules/.bin/loyal-anvil}
  for line in "\${(@f)$("$program" completion --for -- "\${(@)words[2,CURRENT]}" 2>/dev/null)}"; do
    if [[ $line == :files ]]; then
      _files
    elif [[ -n $line ]]; then
      found+=("\${\${line//:/\\\\:}/$'\\t'/:}")
    fi
  done
  (( $#found )) && _describe 'loyal-anvil' found
}
compdef _loyal_anvil loyal-anvil
`,
  fish: `# Completes loyal-anvil in fish.
function __loyal_anvil
  set -l program (type -P loyal-anvil; or echo ./node_modules/.bin/loyal-anvil)
  set -l words (commandline -opc) (commandline -ct)
  for line in ($program completion --for -- $words[2..] 2>/dev/null)
    if test "$line" = :files
      __fish_complete_path (commandline -ct)
    else
      echo $line
    end
  end
end
complete -c loyal-anvil -f -a '(__loyal_anvil)'
`,
};
