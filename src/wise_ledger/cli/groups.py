"""Groups of commands, which name the nearest where there is no command of a name."""

import click


class Group(click.Group):
    """A group of commands; those below it that are groups are such ones too."""

    group_class = type

    def resolve_command(
        self, context: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        known = self.list_commands(context)
        if args and args[0] not in known and not args[0].startswith("-"):
            from difflib import get_close_matches

            near = get_close_matches(args[0], known, n=1, cutoff=0.4)
            mend = f"did you mean {near[0]}?" if near else f"see {context.command_path} --help"
            raise click.UsageError(f"there is no command {args[0]}: {mend}", context)
        return super().resolve_command(context, args)
