"""The entry point: the command line, with the commands that start the service added."""

from wise_ledger.cli.main import root


def main() -> None:
    """Run `wise-ledger`."""
    root.nouns |= {  # type: ignore[attr-defined]
        "serve": ("wise_ledger.launch.serve", "Serve the ledger: API and console."),
        "demo": ("wise_ledger.launch.demo", "A ledger of made-up companies to try things on."),
    }
    root(prog_name="wise-ledger")


if __name__ == "__main__":
    main()
