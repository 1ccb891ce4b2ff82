"""Reading a PC: what each source can be asked, with an answer and a reason where it cannot."""
