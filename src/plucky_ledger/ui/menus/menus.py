"""All actions of the window, in the order of its menus."""

from plucky_ledger.ui.actions import Action
from plucky_ledger.ui.menus.book_menu import book_menu
from plucky_ledger.ui.menus.entries_menu import entries_menu
from plucky_ledger.ui.menus.help_menu import help_menu
from plucky_ledger.ui.menus.job_menu import job_menu
from plucky_ledger.ui.menus.possible import Possible, WindowCommands
from plucky_ledger.ui.menus.record_menu import record_menu
from plucky_ledger.ui.menus.view_menu import view_menu


def window_actions(window: WindowCommands) -> tuple[Action, ...]:
    """Everything that can be done in a window, in the order of the menus."""
    may = Possible(window)
    menus = (job_menu, record_menu, entries_menu, book_menu, view_menu, help_menu)
    return tuple(action for menu in menus for action in menu(window, may))
