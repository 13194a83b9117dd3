"""Who does something, where that is noted: a name that one types, for there are no accounts."""

from typing import Annotated

from pydantic import AfterValidator, Field

# One line of print.
Plain = Annotated[str, Field(pattern=r"^[^\x00-\x1f\x7f]*$")]
Name = Annotated[Plain, Field(min_length=1, max_length=60)]
# Who types no name is someone.
Who = Annotated[Plain, Field(max_length=60), AfterValidator(lambda typed: typed.strip() or "someone at the page")]
