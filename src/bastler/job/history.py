"""Undo and redo as a list of jobs."""

from __future__ import annotations

from bastler.job.document import Job


class History:
    """Where the job was and may go back to.

    Edits that share a `merge` key one after the other (the keystrokes of one field, one drag) are one entry.
    """

    MOST = 500

    def __init__(self, job: Job) -> None:
        self._jobs = [job]
        self._says = [""]
        self._at = 0
        self._merge = ""

    @property
    def job(self) -> Job:
        return self._jobs[self._at]

    def edit(self, job: Job, says: str, merge: str = "") -> None:
        """A new job becomes the present one. An equal job changes nothing."""
        if job == self.job:
            return
        if merge and merge == self._merge and self._at > 0 and self._at == len(self._jobs) - 1:
            self._jobs[self._at] = job
            return
        del self._jobs[self._at + 1 :], self._says[self._at + 1 :]
        self._jobs.append(job)
        self._says.append(says)
        if len(self._jobs) > self.MOST:
            del self._jobs[0], self._says[0]
        self._at = len(self._jobs) - 1
        self._merge = merge

    def settle(self) -> None:
        """The gesture is over: the next edit is an entry of its own."""
        self._merge = ""

    @property
    def undo_says(self) -> str:
        """What undo would take back; empty when there is nothing."""
        return self._says[self._at]

    @property
    def redo_says(self) -> str:
        """What redo would do again; empty when there is nothing."""
        return self._says[self._at + 1] if self._at + 1 < len(self._jobs) else ""

    def undo(self) -> Job:
        self._at = max(0, self._at - 1)
        self._merge = ""
        return self.job

    def redo(self) -> Job:
        self._at = min(len(self._jobs) - 1, self._at + 1)
        self._merge = ""
        return self.job
