"""The names that browsers give to what they are sent."""

from typing import Literal
from urllib.parse import quote


def named(name: str, how: Literal["attachment", "inline"] = "attachment") -> dict[str, str]:
    """The header that names a file, in whatever letters. Source: RFC 6266, RFC 8187."""
    return {"Content-Disposition": f"{how}; filename*=UTF-8''{quote(name)}"}
