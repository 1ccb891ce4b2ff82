"""What is asked of the administrator, each in a sentence of its own: the actions of polkit(8).

``python tools/policy.py PROGRAM`` prints them for the program that carries a request out.
"""

import sys
from xml.sax.saxutils import escape

from plucky_ledger.capture import administrator as of_recording
from plucky_ledger.control import administrator as of_control
from plucky_ledger.night import administrator as of_night

ACTION = "example.pluckyledger"
PROGRAM = "@ADMINISTER@"
"""Stands for the program that an action is about, until it is known where that lies."""
KEEP, EACH_TIME = "auth_admin_keep", "auth_admin"
ASKED = {
    of_recording.ARM: (
        KEEP,
        "The administrator is asked so that the next boots of this PC can be recorded.",
        "Damit die nächsten Starts dieses PCs aufgezeichnet werden, ist das Passwort nötig.",
    ),
    of_recording.DISARM: (
        KEEP,
        "The administrator is asked so that no more boots of this PC are recorded.",
        "Damit keine weiteren Starts dieses PCs aufgezeichnet werden, ist das Passwort nötig.",
    ),
    of_recording.PAST_BOOTS: (
        KEEP,
        "The administrator is asked so that past boots can be read from this PC’s log.",
        "Um frühere Starts aus dem Protokoll dieses PCs zu lesen, ist das Passwort nötig.",
    ),
    of_recording.INSPECT: (
        KEEP,
        "The administrator is asked so that this PC’s drives tell how healthy they are.",
        "Um die Laufwerke nach ihrem Zustand zu fragen, ist das Passwort nötig.",
    ),
    of_recording.SURVEY: (
        KEEP,
        "The administrator is asked so that all that takes room on this PC can be counted.",
        "Um alles zu zählen, was auf diesem PC Platz braucht, ist das Passwort nötig.",
    ),
    of_control.SWITCH: (
        EACH_TIME,
        "The administrator is asked so that startup entries of this PC can be switched.",
        "Um Starteinträge dieses PCs zu schalten, ist das Passwort nötig.",
    ),
    of_control.PUT_BACK: (
        EACH_TIME,
        "The administrator is asked so that startup entries are put back as they were.",
        "Um Starteinträge in ihren alten Stand zu bringen, ist das Passwort nötig.",
    ),
    of_control.STOP: (
        EACH_TIME,
        "The administrator is asked so that a service can be stopped as a trial.",
        "Um einen Dienst probeweise anzuhalten, ist das Passwort nötig.",
    ),
    of_night.BEGIN: (
        EACH_TIME,
        "The administrator is asked so that this PC can switch and restart itself for a night.",
        "Damit dieser PC nachts selbst schaltet und neu startet, ist das Passwort nötig.",
    ),
    of_night.END: (
        KEEP,
        "The administrator is asked so that the night shift ends and everything is put back.",
        "Um die Nachtschicht zu beenden und alles zurückzunehmen, ist das Passwort nötig.",
    ),
}
_ACTION = """\
  <action id="{action}.{request}">
    <message>{english}</message>
    <message xml:lang="de">{german}</message>
    <icon_name>plucky-ledger</icon_name>
    <defaults>
      <allow_any>auth_admin</allow_any>
      <allow_inactive>auth_admin</allow_inactive>
      <allow_active>{active}</allow_active>
    </defaults>
    <annotate key="org.freedesktop.policykit.exec.path">{program}</annotate>
    <annotate key="org.freedesktop.policykit.exec.argv1">{request}</annotate>
  </action>
"""
_POLICY = """\
<?xml version="1.0" encoding="UTF-8"?>
<!DOCTYPE policyconfig PUBLIC "-//freedesktop//DTD PolicyKit Policy Configuration 1.0//EN"
  "http://www.freedesktop.org/standards/PolicyKit/1.0/policyconfig.dtd">
<policyconfig>
  <vendor>Plucky Ledger</vendor>
{actions}</policyconfig>
"""


def policy() -> str:
    """The file, about the program ``PROGRAM``."""
    actions = (
        _ACTION.format(
            action=ACTION,
            request=request,
            english=escape(english),
            german=escape(german),
            active=active,
            program=PROGRAM,
        )
        for request, (active, english, german) in ASKED.items()
    )
    return _POLICY.format(actions="".join(actions))


if __name__ == "__main__":
    sys.stdout.write(policy().replace(PROGRAM, sys.argv[1]))
