"""Company ids: `co-` and six characters of Crockford base 32, the last a check character.

The check is linear over the field of 32 elements, with a different weight at each place, so every
single wrong character and every swap of two characters is found (a Hamming code of distance 2 over
GF(32), as in MacWilliams and Sloane, The Theory of Error-Correcting Codes, ch. 1).
"""

ALPHABET = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"
_BODY = 5
_SCATTER = 0x9E3779  # odd, so that multiplying by it permutes the numbers modulo 2**25
_SPACE = 1 << (5 * _BODY)


def _times_x(a: int) -> int:
    """`a` times x in GF(32) with the primitive polynomial x^5 + x^2 + 1."""
    a <<= 1
    return a ^ 0b100101 if a & 0b100000 else a


def _check(body: list[int]) -> int:
    total = 0
    for digit in body:  # Horner: each place has its own power of x as weight, none of them 1
        total = _times_x(total ^ digit)
    return total


def company_id(number: int) -> str:
    """The id of the company with this number (0 … 33,554,431);
    neighbours in number are far apart in id.
    """
    return stable_id("co", number)


def stable_id(prefix: str, number: int) -> str:
    """An id of the same make for another kind of thing: `se` a security, `li` a listing."""
    if not 0 <= number < _SPACE:
        raise ValueError(f"numbers run from 0 to {_SPACE - 1}, not {number}")
    scattered = number * _SCATTER % _SPACE
    body = [(scattered >> shift) & 31 for shift in range(5 * (_BODY - 1), -1, -5)]
    return f"{prefix}-" + "".join(ALPHABET[d] for d in [*body, _check(body)])


def is_company_id(text: str) -> bool:
    """Whether `text` is written as a company id and its check character agrees."""
    if not text.startswith("co-") or len(text) != 3 + _BODY + 1:
        return False
    digits = [ALPHABET.find(c) for c in text[3:].upper()]
    return -1 not in digits and _check(digits[:-1]) == digits[-1]
