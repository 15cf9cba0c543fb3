"""Scan files in, display meshes and per-vertex fields out."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, File, Form, Response, UploadFile

from vane_line.api.case_schemas import ScanChange, ScanOut
from vane_line.api.context import Context, Ctx
from vane_line.errors import NotFound, ScanTooLarge, printable
from vane_line.service import import_scan as importing
from vane_line.store import blobs, scans

router = APIRouter(prefix="/api", tags=["scans"])
PNG = b"\x89PNG"
IMMUTABLE = "private, max-age=31536000, immutable"  # patients' data: kept by their own browser only


def scan_out(scan: scans.Scan) -> ScanOut:
    """A scan as the browser sees it."""
    fields = ("id", "role", "name", "unit", "unit_sure", "rest_hash", "light_hash", "facts")
    return ScanOut.model_validate({k: getattr(scan, k) for k in fields})


def uploaded(ctx: Context, file: UploadFile) -> tuple[str, bytes]:
    """A scan file's name, fit to be shown, and what is in it. Raises ScanTooLarge before all of it is read."""
    name, limit = printable(file.filename or "scan"), ctx.settings.max_upload_bytes
    data = file.file.read(limit + 1)
    if len(data) > limit:
        raise ScanTooLarge(f"{name}: the file is over the limit of {limit / 1e6:.0f} MB; export a lighter scan.")
    return name, data


@router.post("/cases/{case_id}/attempts/{attempt_id}/scans", operation_id="addScan", status_code=201)
def add_scan(
    ctx: Ctx,
    case_id: str,
    attempt_id: str,
    file: Annotated[UploadFile, File()],
    role: Annotated[Literal["auto", "prep", "preop", "mockup", "opposing", "opposing_before"], Form()] = "auto",
    unit: Annotated[Literal["auto", "mm", "cm", "m", "in"], Form()] = "auto",
) -> ScanOut:
    """Read and keep a scan; role and unit are guessed unless given."""
    name, data = uploaded(ctx, file)
    scan = importing.import_scan(ctx.surgery, case_id, attempt_id, name, data, role, unit)
    return scan_out(scan)


@router.put("/scans/{scan_id}", operation_id="changeScan")
def change_scan(ctx: Ctx, scan_id: str, body: ScanChange) -> ScanOut:
    """Say which scan it is, or confirm or correct its unit."""
    return scan_out(importing.change_scan(ctx.surgery, scan_id, body.attempt_id, body.role, body.unit))


@router.delete("/scans/{scan_id}", operation_id="deleteScan", status_code=204)
def delete_scan(ctx: Ctx, scan_id: str) -> Response:
    """Take a scan out of the case."""
    importing.take_out(ctx.db, scan_id)
    return Response(status_code=204)


@router.get("/blobs/{digest}", operation_id="getBlob", response_class=Response)
def get_blob(ctx: Ctx, digest: str) -> Response:
    """A display mesh or a field as binary; the address is the content's hash, so it never changes."""
    return Response(
        blobs.get(ctx.db, digest), media_type="application/octet-stream", headers={"Cache-Control": IMMUTABLE}
    )


@router.get("/pictures/{digest}", operation_id="getPicture", response_class=Response)
def get_picture(ctx: Ctx, digest: str) -> Response:
    """A small picture of a judged preparation; like every blob, it never changes."""
    data = blobs.get(ctx.db, digest)
    if not data.startswith(PNG):
        raise NotFound("There is no such picture.")
    return Response(data, media_type="image/png", headers={"Cache-Control": IMMUTABLE})
