"""Completions for shells, made from the parsers: commands, options, their values, and the modules of the host."""

from __future__ import annotations

from collections.abc import Sequence

from .describing import Command, Option

MODULES = "swift-sprout completion modules --begun {} 2>/dev/null"  # those of which some spelling begins so


def bash(commands: Sequence[Command]) -> str:
    """Return the completion for bash."""
    cases = []
    for command in commands:
        flags = " ".join(flag for option in command.options for flag in option.flags)
        values = "".join(
            f"            {'|'.join(option.flags)}) {_bash_value(option)}; return ;;\n"
            for option in command.options
            if option.metavar
        )
        first, *others = [_bash_value(one) for one in command.arguments] or ["COMPREPLY=()"]
        rest = f"if (( COMP_CWORD == 2 )); then {first}; else {others[0]}; fi" if others else first
        cases.append(
            f"    {command.name})\n        case $previous in\n{values}        esac\n"
            f'        if [[ $current == -* ]]; then COMPREPLY=($(compgen -W "{flags}" -- "$current"))\n'
            f"        else {rest}; fi ;;\n"
        )
    names = " ".join(command.name for command in commands)
    return (
        "# completion of swift-sprout for bash; put it where your shell finds it:\n"
        "#   swift-sprout completion bash > ~/.local/share/bash-completion/completions/swift-sprout\n"
        "_swift_sprout() {\n"
        "    local current=${COMP_WORDS[COMP_CWORD]} previous=${COMP_WORDS[COMP_CWORD-1]}\n"
        "    if (( COMP_CWORD == 1 )); then\n"
        f'        COMPREPLY=($(compgen -W "{names} help --help --version" -- "$current")); return\n    fi\n'
        f"    case ${{COMP_WORDS[1]}} in\n{''.join(cases)}"
        f'    help) COMPREPLY=($(compgen -W "{names}" -- "$current")) ;;\n    esac\n'
        "}\ncomplete -o default -F _swift_sprout swift-sprout\n"
    )


def _bash_value(option: Option) -> str:
    if option.choices:
        return f'COMPREPLY=($(compgen -W "{" ".join(option.choices)}" -- "$current"))'
    if option.takes_module:
        asking = MODULES.format('"$current"')
        return f"COMPREPLY=($({asking}))"
    return 'COMPREPLY=($(compgen -f -- "$current"))' if option.takes_path else "COMPREPLY=()"


def zsh(commands: Sequence[Command]) -> str:
    """Return the completion for zsh."""
    names = "\n".join(f"        {_quoted(f'{one.name}:{one.summary}')}" for one in commands)
    cases = []
    for command in commands:
        lines = [_zsh_option(option) for option in command.options]
        places = [*(str(number) for number in range(1, len(command.arguments))), "*"]
        arguments = zip(places, command.arguments, strict=False)
        lines += [_quoted(f"{at}:{one.metavar.lower()}:{_zsh_value(one)}") for at, one in arguments]
        body = " \\\n            ".join(lines)
        cases.append(f"    {command.name}) _arguments \\\n            {body} ;;\n")
    return (
        "#compdef swift-sprout\n# completion of swift-sprout for zsh; put it into a folder of $fpath as _swift-sprout\n"
        f"_swift_sprout_modules() {{ compadd -U -- ${{(f)\"$({MODULES.format('$PREFIX')} | tr ' ' '\\n')\"}} }}\n"
        f"_swift_sprout() {{\n    local -a commands\n    commands=(\n{names}\n    )\n"
        "    if (( CURRENT == 2 )); then _describe command commands; return; fi\n"
        "    shift words; (( CURRENT-- ))\n"
        f"    case $words[1] in\n{''.join(cases)}    esac\n}}\n"
        'if [ "$funcstack[1]" = "_swift-sprout" ]; then _swift_sprout "$@"\n'
        "else compdef _swift_sprout swift-sprout; fi\n"
    )


def _zsh_option(option: Option) -> str:
    text = option.help.replace("[", "(").replace("]", ")").replace(":", " -")
    tail = f":{option.metavar.split('|')[0].lower()}:{_zsh_value(option)}" if option.metavar else ""
    return " ".join(_quoted(f"{'*' if 'repeat' in text else ''}{flag}[{text}]{tail}") for flag in option.flags)


def _zsh_value(option: Option) -> str:
    if option.choices:
        return f"({' '.join(option.choices)})"
    if option.takes_module:
        return "_swift_sprout_modules"
    return "_files" if option.takes_path else ""


def fish(commands: Sequence[Command]) -> str:
    """Return the completion for fish."""
    lines = [
        "# completion of swift-sprout for fish; put it into ~/.config/fish/completions/swift-sprout.fish",
        "complete -c swift-sprout -f",
        f"function __swift_sprout_modules; {MODULES.format('(commandline -ct)')} | string split ' '; end",
    ]
    for command in commands:
        lines.append(
            f"complete -c swift-sprout -n __fish_use_subcommand -a {command.name} -d {_quoted(command.summary)}"
        )
    for command in commands:
        when = _quoted(f"__fish_seen_subcommand_from {command.name}")
        for option in command.options:
            flags = " ".join(f"-l {flag[2:]}" if flag.startswith("--") else f"-s {flag[1:]}" for flag in option.flags)
            value = f" {_fish_value(option)}" if option.metavar else ""
            lines.append(f"complete -c swift-sprout -n {when} {flags} -d {_quoted(option.help)}{value}")
        for argument in command.arguments[:2]:
            lines.append(f"complete -c swift-sprout -n {when} {_fish_value(argument).removeprefix('-x ')}".rstrip())
    return "\n".join(lines) + "\n"


def _fish_value(option: Option) -> str:
    if option.choices:
        return f"-x -a {_quoted(' '.join(option.choices))}"
    if option.takes_module:
        return "-x -a '(__swift_sprout_modules)'"
    return "-r -F" if option.takes_path else "-x"


def _quoted(text: str) -> str:
    return "'" + text.replace("'", "'\\''") + "'"
