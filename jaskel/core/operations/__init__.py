"""What can be done to an edition. Each operation describes itself; the log of them is the saved document.

To add one, write a module here with a frozen dataclass derived from :class:`~jaskel.core.operations.base.Operation`, register
it with :func:`~jaskel.core.operations.base.operation`, and name it below. An operation that is asked for just as it is
(``asked``) needs nothing else: its request, the OpenAPI document and the page's types are made from its fields.
"""

from jaskel.core.operations import legacy
from jaskel.core.operations.base import OPERATIONS, Operation, Range, Telling, apply, joined, operation
from jaskel.core.operations.become import Become
from jaskel.core.operations.insert import Insert
from jaskel.core.operations.marks import SetMarks
from jaskel.core.operations.material import Append, Replace, Substitute
from jaskel.core.operations.move import Move
from jaskel.core.operations.retype import Retype, taken_back
from jaskel.core.operations.rewrite import Edit, Rewrite
from jaskel.core.operations.shape import SetShape
from jaskel.core.operations.strike import Lift, PutBack, Strike
from jaskel.core.operations.together import Together
from jaskel.core.operations.trim import Slip, Trim

__all__ = [
    "OPERATIONS", "Append", "Become", "Edit", "Insert", "Lift", "Move", "Operation", "PutBack", "Range", "Replace", "Retype",
    "Rewrite", "SetMarks", "SetShape", "Slip", "Strike", "Substitute", "Telling", "Together", "Trim", "apply", "joined",
    "legacy", "operation", "taken_back",
]  # fmt: skip
