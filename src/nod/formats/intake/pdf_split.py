"""A file of many sheets taken apart: each page a file of its own that looks the same and carries nothing else."""

from __future__ import annotations

from pathlib import Path

import pikepdf

from nod.formats.files.unfit import Unfit


class CannotSplit(Unfit):
    """The file cannot be read as far as that."""


def split_pages(source: Path, target: Path) -> int:
    """Writes `0.pdf`, `1.pdf` … into the directory `target`; returns how many. Raises CannotSplit.

    The streams are taken over as they are, and the same page of the same file always gives the same bytes. Layers come
    along with their page; scripts, launch actions and embedded files stay behind.
    """
    try:
        with pikepdf.open(source) as pdf:
            for place, page in enumerate(pdf.pages):
                _write_page(pdf, page, target / f"{place}.pdf")
            return len(pdf.pages)
    except (pikepdf.PdfError, ValueError, KeyError, RuntimeError) as error:
        raise CannotSplit(str(error)) from error


def _write_page(source: pikepdf.Pdf, page: pikepdf.Page, target: Path) -> None:
    with pikepdf.new() as one:
        one.pages.append(page)
        kept = one.pages[0].obj
        for key in ("/AA", "/B", "/StructParents"):
            if key in kept:
                del kept[key]
        _strip_actions(kept)
        if "/OCProperties" in source.Root:
            layers = source.Root.OCProperties
            # It may stand in the catalogue itself, and only what stands alone can be copied.
            one.Root.OCProperties = one.copy_foreign(layers if layers.is_indirect else source.make_indirect(layers))
        one.save(
            target,
            deterministic_id=True,
            compress_streams=False,
            stream_decode_level=pikepdf.StreamDecodeLevel.none,
            object_stream_mode=pikepdf.ObjectStreamMode.disable,
        )


def _strip_actions(page: pikepdf.Object) -> None:
    """Annotations keep their look; what they would do is left out, save for plain links to addresses and places."""
    annotations = page.get("/Annots")
    if not isinstance(annotations, pikepdf.Array):
        return
    for each in annotations:
        if not isinstance(each, pikepdf.Dictionary):
            continue
        if "/AA" in each:
            del each["/AA"]
        action = each.get("/A")
        if isinstance(action, pikepdf.Dictionary) and action.get("/S") not in (pikepdf.Name.URI, pikepdf.Name.GoTo):
            del each["/A"]
        if "/FS" in each:
            del each["/FS"]
