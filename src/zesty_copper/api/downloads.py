"""Files as answers."""

from fastapi import Response

__all__ = ["file_response"]


def file_response(content: bytes | str, media_type: str, name: str) -> Response:
    """Return a file that is opened in the browser, from where it is printed or kept."""
    return Response(content, media_type=media_type, headers={"content-disposition": f'inline; filename="{name}"'})
