"""The family of a part: its sizes with names, and the table of its variants, each proved, each with programs of its own."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

import msgspec
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bastler.app.asking import OWN_DIALOG, file_to_open, file_to_write
from bastler.app.fields import WordField
from bastler.app.labels import Label
from bastler.app.panels import panel_area
from bastler.app.session import Session
from bastler.app.theme import ROLES, dress
from bastler.bounds import NAMED_SIZES, VARIANTS
from bastler.disk import read_bounded, reason_of, write_whole
from bastler.job import Job, answering
from bastler.job.family import (
    LARGEST_TABLE,
    Family,
    FamilyError,
    NamedSize,
    Variant,
    known,
    name_trouble,
    renamed,
    used_by,
    values_of,
    variants_csv,
    variants_of_csv,
)
from bastler.language import many, sayable, tr, tr_as
from bastler.live.variants import ProvedVariant, same_files
from bastler.units import Kind, clock, number_text

TABLES = sayable("Tables (*.csv *.txt)")
HOW = sayable(
    "A size with a name is typed by it wherever a number is, in lists too: d1, d1/2, d1 H7. Change it here, and all follows."
)
NONE_YET = sayable("A variant is the same part with other sizes: what its cells leave empty is as above.")
replace = msgspec.structs.replace


class FamilyPanel(QWidget):
    """Emits `closed` when it has done its part, `wants` with a variant that is to be opened as a job of its own."""

    closed = pyqtSignal()
    wants = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(tr("Named sizes and variants"))
        self.found: dict[str, ProvedVariant] = {}
        self._of: Job | None = None
        """The job that `found` was found for."""
        self._proving = False
        self._shape: object = None
        self.fields: dict[tuple[str, str], WordField] = {}
        """The fields by what they are of: ("name", size), ("says", size), ("variant", name), (variant, size)."""
        self.verdicts: dict[str, Label] = {}
        self.values: dict[str, Label] = {}
        self.uses: dict[str, Label] = {}
        self.why, self.counted = Label(), Label()
        self.why.setObjectName("why")
        self.counted.setObjectName("soft")
        for label in (self.why, self.counted):
            label.setWordWrap(True)
        self.prove_button = self._button(tr("Prove all variants"), tr("Proves each as a part of its own"), self.prove, "main")
        self.save_button = self._button(tr("Save all programs…"), tr("Into a folder, those that are proved"), self.save, "plain")
        self.area = panel_area()
        self.area.setObjectName("paper")
        self._lay_out()
        session.job_changed.connect(self.refresh)

    def _button(self, text: str, tip: str, does: Callable[[], object], name: str = "link") -> QPushButton:
        button = QPushButton(text)
        button.setObjectName(name)
        button.setToolTip(tip)
        button.clicked.connect(lambda _: does())
        return button

    def _lay_out(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(22, 12, 22, 10)
        whole.setSpacing(8)
        head = QHBoxLayout()
        title = Label(tr("Named sizes and variants"))
        title.setStyleSheet("font-size: 18px; font-weight: bold;")
        head.addWidget(title, 1)
        head.addWidget(self._button(tr("Close"), tr("Back to the view (Esc)"), self.closed.emit, "plain"))
        whole.addLayout(head)
        how = Label(tr(HOW))
        how.setObjectName("soft")
        how.setWordWrap(True)
        whole.addWidget(how)
        whole.addWidget(self.area, 1)
        whole.addWidget(self.why)
        row = QHBoxLayout()
        row.setSpacing(10)
        row.addWidget(self.prove_button)
        row.addWidget(self.save_button)
        row.addWidget(self.counted, 1)
        whole.addLayout(row)

    @property
    def family(self) -> Family:
        """That of the job; an empty one where it has none."""
        return self.session.job.family or Family()

    # -- showing ----------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Shows the family as it is now."""
        if not self.session.has_job or not self.isVisible():
            return
        if self._of is not None and self._of is not self.session.job:
            self._of, self.found = None, {}
            self._stop()
        family = self.family
        shape = ([size.name for size in family.sizes], [one.name for one in family.variants])
        if shape != self._shape:
            self._shape = shape
            self._build()
        values = known(self.session.job)
        for size in family.sizes:
            self._show(("name", size.name), size.name)
            self._show(("says", size.name), size.says)
            value = values.get(size.name)
            self.values[size.name].setText("" if value is None else number_text(value, Kind.LENGTH, self.session.job.unit))
            self.uses[size.name].setText(many(len(used_by(self.session.job, size.name)), "place"))
        for one in family.variants:
            self._show(("variant", one.name), one.name)
            for size in family.sizes:
                self._show((one.name, size.name), one.sizes.get(size.name, ""))
                self.fields[one.name, size.name].setPlaceholderText(size.says)
            self._say_verdict(one.name)
        self.prove_button.setEnabled(bool(family.variants))
        self.save_button.setEnabled(any(one.proved for one in self.found.values()))
        if not self.found:
            self.counted.setText("" if family.variants else tr(NONE_YET))

    def showEvent(self, event: object) -> None:
        """It may have changed unseen."""
        super().showEvent(event)  # type: ignore[arg-type]
        self.refresh()

    def _show(self, key: tuple[str, str], text: str) -> None:
        field = self.fields[key]
        if not field.hasFocus() and field.text() != text:
            field.setText(text)

    def _say_verdict(self, name: str) -> None:
        found, label = self.found.get(name), self.verdicts[name]
        label.setText(
            "" if found is None else f"{found.words}, {clock(found.seconds)}" if found.proved else f"{found.words}: {found.why}"
        )
        dress(label, f"color: {ROLES.soft if found is None else ROLES.good if found.proved else ROLES.stop};")

    def _build(self) -> None:
        family = self.family
        self.fields, self.verdicts, self.values, self.uses = {}, {}, {}, {}
        body = QWidget()
        body.setObjectName("paper")
        body.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 12, 0)
        column.setSpacing(8)
        column.addLayout(self._sizes(family))
        column.addWidget(
            self._button(tr("+ Add a size"), tr("Another size with a name"), self.add_size), 0, Qt.AlignmentFlag.AlignLeft
        )
        column.addSpacing(10)
        column.addLayout(self._variants(family))
        row = QHBoxLayout()
        row.setSpacing(18)
        row.addWidget(self._button(tr("+ Add a variant"), tr("Another part of the family"), self.add_variant))
        row.addWidget(self._button(tr("From a table…"), tr("Variants out of a CSV file"), self.ask_table))
        row.addWidget(self._button(tr("Save the table…"), tr("The variants as a CSV file"), self.save_table))
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(1)
        old = self.area.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()
        self.area.setWidget(body)

    def _sizes(self, family: Family) -> QGridLayout:
        grid = self._grid((tr("Size"), tr_as("equals", "is"), "", tr("used in"), ""))
        for k, size in enumerate(family.sizes, 1):
            self._field(grid, k, 0, ("name", size.name), tr("Name of size {k}", k=k), 110, partial(self._rename, size.name))
            self._field(
                grid, k, 1, ("says", size.name), tr("What {name} is", name=size.name), 130, partial(self._resize, size.name)
            )
            self.values[size.name] = Label()
            self.values[size.name].setObjectName("soft")
            grid.addWidget(self.values[size.name], k, 2)
            self.uses[size.name] = Label()
            self.uses[size.name].setObjectName("soft")
            grid.addWidget(self.uses[size.name], k, 3)
            grid.addWidget(
                self._button(tr("remove"), tr("Takes {name} away", name=size.name), partial(self.remove_size, size.name)), k, 4
            )
        grid.setColumnStretch(5, 1)
        return grid

    def _variants(self, family: Family) -> QGridLayout:
        grid = self._grid((tr("Variant"), *(size.name for size in family.sizes), tr("Proof"), "", "") if family.variants else ())
        last = len(family.sizes) + 1
        for k, one in enumerate(family.variants, 1):
            self._field(
                grid, k, 0, ("variant", one.name), tr("Name of variant {k}", k=k), 110, partial(self._rename_variant, one.name)
            )
            for j, size in enumerate(family.sizes, 1):
                says = tr("{size} of {variant}", size=size.name, variant=one.name)
                self._field(grid, k, j, (one.name, size.name), says, 84, partial(self._set, one.name, size.name))
            self.verdicts[one.name] = Label()
            self.verdicts[one.name].setWordWrap(True)
            grid.addWidget(self.verdicts[one.name], k, last)
            grid.addWidget(
                self._button(
                    tr_as("do", "open"), tr("Opens {name} as a job of its own", name=one.name), partial(self._open, one.name)
                ),
                k,
                last + 1,
            )
            grid.addWidget(
                self._button(tr("remove"), tr("Takes {name} away", name=one.name), partial(self.remove_variant, one.name)),
                k,
                last + 2,
            )
        grid.setColumnStretch(last, 1)
        return grid

    def _grid(self, heads: tuple[str, ...]) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(4)
        for k, head in enumerate(heads):
            label = Label(head)
            label.setObjectName("soft")
            grid.addWidget(label, 0, k)
        return grid

    def _field(
        self, grid: QGridLayout, row: int, at: int, key: tuple[str, str], says: str, wide: int, does: Callable[[str], None]
    ) -> None:
        field = WordField()
        field.setMaxLength(200)
        field.setFixedWidth(wide)
        field.setAccessibleName(says)
        field.entered.connect(lambda by: self.focusNextPrevChild(by > 0))
        field.editingFinished.connect(lambda: does(field.text().strip()))
        grid.addWidget(field, row, at)
        self.fields[key] = field

    # -- changing ---------------------------------------------------------------------------------------------------

    def _give(self, family: Family, says: str) -> bool:
        """The job with another family; a reason is said, and changes nothing."""
        try:
            changed = answering.family_given(self.session.job, family)
        except FamilyError as error:
            self.say(str(error))
            return False
        self.say("")
        self.session.edit(changed if family != Family() else replace(changed, family=None), says)
        return True

    def say(self, text: str) -> None:
        """A reason, beside nothing else."""
        self.why.setText(text)

    def add_size(self) -> None:
        """One more, with the first name that is free."""
        family = self.family
        if why := NAMED_SIZES.over(len(family.sizes) + 1):
            self.say(why)
            return
        taken = tuple(size.name for size in family.sizes)
        name = next(n for n in (f"size{k}" for k in range(1, NAMED_SIZES.most + 2)) if not name_trouble(n, taken))
        if self._give(replace(family, sizes=(*family.sizes, NamedSize(name=name, says="10"))), tr("Add {name}", name=name)):
            self._go(("name", name))

    def _go(self, key: tuple[str, str]) -> None:
        field = self.fields.get(key)
        if field is not None:
            field.setFocus()
            field.selectAll()

    def _rename(self, old: str, new: str) -> None:
        if new == old:
            return
        try:
            family = renamed(self.family, old, new)
        except FamilyError as error:
            self.say(str(error))
            return
        # the numbers stay what they are: only the words that are kept for them change
        self.say("")
        self.session.edit(replace(self.session.job, family=family), tr("{old} is called {new}", old=old, new=new))

    def _resize(self, name: str, says: str) -> None:
        family = self.family
        own = next((size for size in family.sizes if size.name == name), None)
        if own is None or own.says == says:
            return
        if not says:
            self.say(tr("{name} has to be something.", name=name))
            return
        self._give(
            replace(family, sizes=tuple(replace(s, says=says) if s is own else s for s in family.sizes)),
            tr("Change {name}", name=name),
        )

    def remove_size(self, name: str) -> None:
        """Takes a size away that nothing names."""
        job = self.session.job
        if uses := used_by(job, name):
            self.say(tr("{name} is named in {many}: type something else there first.", name=name, many=many(len(uses), "place")))
            return
        family = self.family
        variants = tuple(replace(v, sizes={k: t for k, t in v.sizes.items() if k != name}) for v in family.variants)
        self._give(
            replace(family, sizes=tuple(s for s in family.sizes if s.name != name), variants=variants),
            tr("Remove {name}", name=name),
        )

    def add_variant(self) -> None:
        """One more, as the job is."""
        family = self.family
        if why := VARIANTS.over(len(family.variants) + 1):
            self.say(why)
            return
        taken = {one.name for one in family.variants}
        name = next(n for n in (tr("variant {k}", k=k) for k in range(1, VARIANTS.most + 2)) if n not in taken)
        if self._give(replace(family, variants=(*family.variants, Variant(name=name))), tr("Add {name}", name=name)):
            self._go(("variant", name))

    def _with_variant(self, name: str, changed: Variant | None) -> Family:
        family = self.family
        kept = ((changed if one.name == name else one) for one in family.variants)
        return replace(family, variants=tuple(one for one in kept if one is not None))

    def _rename_variant(self, old: str, new: str) -> None:
        own = next((one for one in self.family.variants if one.name == old), None)
        if own is None or new == old:
            return
        if not new or new in {one.name for one in self.family.variants}:
            self.say(tr("There is a variant {new} already.", new=new) if new else tr("A variant has a name."))
            return
        self._give(self._with_variant(old, replace(own, name=new[:60])), tr("{old} is called {new}", old=old, new=new))

    def _set(self, name: str, size: str, text: str) -> None:
        own = next((one for one in self.family.variants if one.name == name), None)
        if own is None or own.sizes.get(size, "") == text:
            return
        sizes = {k: t for k, t in own.sizes.items() if k != size} | ({size: text} if text else {})
        changed = replace(own, sizes=sizes)
        try:
            values_of(self.session.job, changed)
        except FamilyError as error:
            self.say(f"{name}, {error.name}: {error.reason}")
            return
        self._give(self._with_variant(name, changed), tr("Change {size} of {name}", size=size, name=name))

    def remove_variant(self, name: str) -> None:
        """Takes a variant away."""
        self._give(self._with_variant(name, None), tr("Remove {name}", name=name))

    def _open(self, name: str) -> None:
        own = next((one for one in self.family.variants if one.name == name), None)
        if own is None:
            return
        try:
            self.wants.emit(answering.variant_of(self.session.job, own))
        except FamilyError as error:
            self.say(f"{name}, {error.name}: {error.reason}")

    # -- tables -----------------------------------------------------------------------------------------------------

    def ask_table(self) -> None:
        """Asks for a table of variants."""
        path = file_to_open(self, tr("Variants from a table"), str(Path.home()), tr(TABLES))
        if path is not None:
            self.read_table(path)

    def read_table(self, path: Path) -> None:
        """The variants of a table take the place of those there are; a bad one is said and changes nothing."""
        try:
            variants = variants_of_csv(self.session.job, read_bounded(path, LARGEST_TABLE).decode("utf-8"))
        except OSError as error:
            self.say(tr("{name} cannot be read: {error}.", name=path.name, error=reason_of(error)))
        except UnicodeDecodeError:
            self.say(tr("{name} is no table of text in UTF-8.", name=path.name))
        except FamilyError as error:
            self.say(f"{path.name}: {error}")
        else:
            self._give(replace(self.family, variants=variants), tr("Variants from a table"))

    def save_table(self) -> None:
        """The variants as a table."""
        path = file_to_write(self, tr("Save the table"), Path.home() / "variants.csv", tr(TABLES), ".csv")
        if path is None:
            return
        try:
            write_whole(path, variants_csv(self.session.job).encode())
        except OSError as error:
            self.say(tr("{path} could not be written: {error}.", path=path, error=reason_of(error)))

    # -- proving ----------------------------------------------------------------------------------------------------

    def prove(self) -> None:
        """All variants; once more stops it, and so does a change of the job."""
        if self._proving:
            self._stop()
            return
        job, count = self.session.job, len(self.family.variants)
        self._of, self.found = job, {}
        self._proving = True
        self.prove_button.setText(tr("Stop"))
        self.counted.setText(tr("Proving …"))

        def came(found: tuple[ProvedVariant, ...] | None, trouble: str) -> None:
            self._stop()
            if job is not self.session.job or found is None:
                self.counted.setText(trouble)
                return
            self.found = {one.name: one for one in found}
            proved = sum(one.proved for one in found)
            self.counted.setText(tr("{proved} of {many} proved.", proved=proved, many=many(count, "variant")))
            self.refresh()

        def told(share: float) -> None:
            self.counted.setText(tr("Proving, {share} % …", share=round(100 * share)))

        self.session.core.ask("variants", job, then=came, told=told)

    def _stop(self) -> None:
        """Nothing is being proved any more."""
        self._proving = False
        self.prove_button.setText(tr("Prove all variants"))
        self.counted.setText("")
        self.session.core.leave("variants")

    def save(self) -> None:
        """The programs of all that are proved, into a folder."""
        folder = QFileDialog.getExistingDirectory(self, tr("Folder for the programs"), str(Path.home()), OWN_DIALOG)
        if folder:
            self.save_to(Path(folder))

    def save_to(self, folder: Path) -> None:
        """Writes them; none where two would be the same file."""
        found = [one for one in self.found.values() if one.proved]
        if twice := same_files(found):
            self.say(tr("Two variants would both be saved as {twice}: give them other names.", twice=twice))
            return
        programs = [program for one in found for program in one.programs]
        for name, sent in programs:
            try:
                write_whole(folder / name, sent)
                again = read_bounded(folder / name, len(sent))
            except OSError as error:
                self.say(tr("{folder} could not be written: {error}.", folder=folder / name, error=reason_of(error)))
                return
            if again != sent:
                self.say(tr("{folder} does not hold what was written to it. Do not run it.", folder=folder / name))
                return
        self.say("")
        left = len(self.found) - len(found)
        behind = tr(" {many} not proved, and not saved.", many=many(left, "variant")) if left else ""
        self.counted.setText(
            tr(
                "{many} saved in {folder}, read back and the same.{behind}",
                many=many(len(programs), "program"),
                folder=folder,
                behind=behind,
            )
        )
