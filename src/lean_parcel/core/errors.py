"""Everything that can go wrong and that a person should be told in words.

LeanParcelError
├── UsageError          what was asked for makes no sense       (invalid_size, invalid_place, ...)
├── NotFoundError       it names something that is not there    (not_found)
├── StorageError        the workspace cannot be read or written (disk_full, workspace_busy, ...)
├── BytesChanged        the disk gives back other bytes         (bytes_changed)
├── Superseded          something newer took its place          (superseded)
├── PhotoError          the photo cannot be used
│   ├── UnreadablePhoto     photo_unreadable
│   ├── EmptyPhoto          photo_empty
│   ├── UnsupportedPhoto    photo_unsupported
│   ├── TruncatedPhoto      photo_truncated
│   ├── DamagedPhoto        photo_damaged
│   ├── TooManyPixels       photo_too_many_pixels
│   └── TooManyBytes        photo_too_many_bytes
└── TaskError           the worker did not come back with an answer
    ├── TaskCrashed         task_crashed
    ├── TaskTimedOut        task_timed_out
    └── OutOfMemory         task_out_of_memory

The message is one sentence for the person; `detail` is the library's own wording, for the log only.
Codes are stable. Errors cross process borders, so they are rebuilt from their arguments alone.
"""


class LeanParcelError(Exception):
    """Base of the tree: a stable code, a sentence, and a library's detail for the log."""

    code = "error"

    def __init__(self, message: str, detail: str = "") -> None:
        super().__init__(message, detail)
        self.message = message
        self.detail = detail

    def __str__(self) -> str:
        return self.message


class UsageError(LeanParcelError):
    """A value that the person gave cannot be used; `code` says which kind."""

    def __init__(self, message: str, code: str, detail: str = "") -> None:
        super().__init__(message, detail)
        self.args = (message, code, detail)
        self.code = code


class NotFoundError(LeanParcelError):
    """What was named is not in the workspace."""

    code = "not_found"


class StorageError(LeanParcelError):
    """The workspace's file cannot be read or written; `code` says why. Nothing was stored."""

    def __init__(self, message: str, code: str, detail: str = "") -> None:
        super().__init__(message, detail)
        self.args = (message, code, detail)
        self.code = code


class BytesChanged(LeanParcelError):
    """Bytes that were stored are not what they were."""

    code = "bytes_changed"


class Superseded(LeanParcelError):
    """It is not done, because something newer was asked for in its place."""

    code = "superseded"


class PhotoError(LeanParcelError):
    """The photo cannot be used."""

    code = "photo_error"


class UnreadablePhoto(PhotoError):
    """The file is not there, or may not be read."""

    code = "photo_unreadable"


class EmptyPhoto(PhotoError):
    """The file has no bytes."""

    code = "photo_empty"


class UnsupportedPhoto(PhotoError):
    """The content is no picture of a kind that can be opened."""

    code = "photo_unsupported"


class TruncatedPhoto(PhotoError):
    """The file ends before the picture does."""

    code = "photo_truncated"


class DamagedPhoto(PhotoError):
    """The content breaks the rules of its format."""

    code = "photo_damaged"


class TooManyPixels(PhotoError):
    """The picture is larger than the limit in pixels."""

    code = "photo_too_many_pixels"


class TooManyBytes(PhotoError):
    """The file is larger than the limit in bytes."""

    code = "photo_too_many_bytes"


class TaskError(LeanParcelError):
    """A worker did not come back with an answer."""

    code = "task_error"


class TaskCrashed(TaskError):
    """The worker process died."""

    code = "task_crashed"


class SearchFailed(TaskError):
    """Nothing could be made of a photo, in any format."""

    code = "search_failed"


class TaskTimedOut(TaskError):
    """The worker took longer than it may."""

    code = "task_timed_out"


class OutOfMemory(TaskError):
    """The worker needed more memory than it may have."""

    code = "task_out_of_memory"
