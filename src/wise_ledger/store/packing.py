"""Documents lie packed in the file where that saves room;
their address stays that of their raw bytes.
"""

import zlib

_LEAST = 256  # bytes; of less there is nothing to save


# the bytes as they are kept, and their size before; None where they were not packed
Packed = tuple[bytes, int | None]


def pack(content: bytes) -> Packed:
    """Bytes as they are kept."""
    packed = zlib.compress(content) if len(content) >= _LEAST else content
    return (packed, len(content)) if len(packed) < len(content) else (content, None)


def unpack(content: bytes, unpacked_size: int | None) -> bytes:
    """The raw bytes; raises `ValueError` where they cannot be what was packed."""
    if unpacked_size is None:
        return content
    unpacking = zlib.decompressobj()
    try:
        raw = unpacking.decompress(content, unpacked_size + 1)
    except zlib.error as error:
        raise ValueError(str(error)) from None
    if len(raw) != unpacked_size:
        raise ValueError(f"{len(raw)} bytes in the place of {unpacked_size}")
    return raw
