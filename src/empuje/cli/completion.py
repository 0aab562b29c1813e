"""empuje completion SHELL"""

from __future__ import annotations

import argparse
import sys

from . import FINE, saying

HOW = {
    "bash": 'eval "$(empuje completion bash)"              in ~/.bashrc',
    "zsh": 'eval "$(empuje completion zsh)"               in ~/.zshrc, after compinit',
    "fish": "empuje completion fish > ~/.config/fish/completions/empuje.fish",
    "powershell": "empuje completion powershell | Out-String | Invoke-Expression     in $PROFILE",
}


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument("shell", choices=HOW, help="for which shell")


def run(arguments: argparse.Namespace) -> int:
    from argcomplete.shell_integration import shellcode

    print(shellcode(["empuje"], shell=arguments.shell))
    if sys.stdout.isatty():
        saying.say(f"to have it in every session:\n  {HOW[arguments.shell]}")
    return FINE
