"""What several tests do with the real PC."""

SHARE = "/home/bench/.local/share/plucky-ledger"
RECORDINGS = f"{SHARE}/recordings"


def switched_on(pc):
    """On, and everything started."""
    if not pc.is_on:
        pc.switch_on()
    pc.wait_until_up()


def ledger_command(pc, *arguments):
    """What one of our commands prints, run by the user who signed in."""
    return pc.run("plucky-ledger", *arguments, user=True)
