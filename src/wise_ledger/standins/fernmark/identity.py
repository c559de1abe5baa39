"""How the made-up companies are named and traded: former names, securities,
listings, identifiers, ends.
"""

import random
from typing import Any

from wise_ledger.standins.fernmark.cast import Cast

# What is particular; everybody else has one ordinary share at the venue of its symbol.
FORMER_NAMES = {
    "FM-0018": [("Kestwick Dyes & Alkali", "2021-01-01", "2022-09-30")],
    "FM-0027": [("Hartsel Brewing", "2015-01-01", "2021-03-31")],
}
ENDS = {
    "FM-0025": ("2021-08-31", "merged into Tarn & Sable Textiles"),
    "FM-0028": ("2023-02-17", "bankruptcy"),
}
# Story 2: a symbol given up in 2021 is another company's from 2023. Story 9: two
# venues, a receipt, two classes.
LISTINGS: dict[str, list[dict[str, Any]]] = {
    "FM-0025": [
        {"symbol": "LNK", "mic": "ZALD", "from": "2015-01-01", "to": "2021-08-31", "primary": True}
    ],
    "FM-0026": [
        {"symbol": "LNK", "mic": "ZALD", "from": "2023-09-01", "to": None, "primary": True}
    ],
    "FM-0002": [
        {"symbol": "PTP", "mic": "ZBRE", "from": "2021-01-01", "to": None, "primary": True},
        {"symbol": "PTPX", "mic": "ZALD", "from": "2021-06-01", "to": None, "primary": False},
    ],
}
RECEIPTS = {"FM-0002": {"symbol": "PTPR", "mic": "ZCAL", "ratio": 2.0}}
CLASSES = {
    "FM-0007": {"symbol": "VHL.P", "mic": "ZBRE", "type": "preference", "title": "Preference share"}
}
# Story 9: beside its ordinary shares another class of them, with a fifth of all shares.
SECOND = {"FM-0015": {"symbol": "HLT.B", "mic": "ZBRE"}}
CURRENCY = {"ZALD": "USD", "ZBRE": "EUR", "ZCAL": "JPY"}

VENUES = [
    {
        "mic": mic,
        "name": name,
        "country": country,
        "time_zone": zone,
        "close": close,
        "since": "2000-01-01",
    }
    for mic, name, country, zone, close in (
        ("ZALD", "Aldmoor Exchange", "XA", "Etc/GMT+1", "16:30"),
        ("ZBRE", "Brennholt Exchange", "XB", "Etc/GMT-1", "17:30"),
        ("ZCAL", "Caldry Exchange", "XC", "Etc/GMT-9", "15:00"),
    )
]

# Story 17 and neighbours: companies without statements in this small world, but
# hard to distinguish by name.
EXTRAS: tuple[Cast, ...] = (
    Cast("FM-0025", "Lorne Knitwear", "LNK@ZALD", "XA", "USD", "14", 0, 0),
    Cast("FM-0026", "Linkwater Technology Holdings plc", "LNK@ZALD", "XA", "USD", "62", 0, 0),
    Cast("FM-0027", "Hartsel Group AG", "HTS@ZBRE", "XB", "EUR", "11", 0, 0),
    Cast("FM-0028", "Wexmoor Airways", "WXM@ZALD", "XA", "USD", "51", 0, 0),
    Cast("FM-0029", "Société Brévanne d'Électricité S.A.", "SBE@ZBRE", "XB", "EUR", "35", 0, 0),
    Cast("FM-0030", "Tidemark Co-Operative Stores", "TCS@ZALD", "XA", "USD", "47", 0, 0),
    Cast(
        "FM-0031",
        "Marlowe International Shipping (Caldry) K.K.",
        "MIS@ZCAL",
        "XC",
        "JPY",
        "50",
        0,
        0,
    ),
    Cast("FM-0032", "Marlow International Shipping N.V.", "MRL@ZBRE", "XB", "EUR", "50", 0, 0),
)


def describe(
    cast: Cast,
    first_year: int,
    end: tuple[str, str] | None = None,
    splits: list[dict[str, Any]] | None = None,
) -> dict[str, Any]:
    """The part of a company's record that says how it is named and traded,
    from its first year on.
    """
    rng = random.Random(f"identity:{cast.key}")
    since = f"{first_year}-01-01" if cast.revenue else "2015-01-01"
    ended, cause = end or ENDS.get(cast.key, (None, None))
    symbol, mic = cast.symbol.split("@")
    plain = [{"symbol": symbol, "mic": mic, "from": since, "to": ended, "primary": True}]
    securities = [
        _security(cast.key, "S1", "ordinary", "Ordinary share", None, LISTINGS.get(cast.key, plain))
    ]
    securities[0]["splits"] = splits or []
    for extra, kind in (
        (RECEIPTS.get(cast.key), "depositary_receipt"),
        (CLASSES.get(cast.key), None),
    ):
        if extra:
            listing = [
                {
                    "symbol": extra["symbol"],
                    "mic": extra["mic"],
                    "from": since,
                    "to": None,
                    "primary": True,
                }
            ]
            title = extra.get("title", "Depositary receipt")
            securities.append(
                _security(cast.key, "S2", kind or extra["type"], title, extra.get("ratio"), listing)
            )
    if second := SECOND.get(cast.key):
        listing = [
            {
                "symbol": second["symbol"],
                "mic": second["mic"],
                "from": since,
                "to": None,
                "primary": True,
            }
        ]
        securities.append(
            _security(cast.key, "S3", "ordinary", "Ordinary share, class B", None, listing)
        )
    national = "".join(rng.choice("0123456789") for _ in range(9))
    identifiers = [
        {
            "scheme": "lei",
            "value": _lei(f"FERN00{cast.key[3:]}" + national[:8]),
            "security": None,
            "from": since,
            "to": None,
        },
        {
            "scheme": "isin",
            "value": _isin(cast.country + national),
            "security": f"{cast.key}-S1",
            "from": since,
            "to": None,
        },
        {
            "scheme": "sedol",
            "value": _sedol("B" + national[:5]),
            "security": f"{cast.key}-S1",
            "from": since,
            "to": None,
        },
    ]
    return {
        "names": [{"name": n, "from": a, "to": b} for n, a, b in FORMER_NAMES.get(cast.key, [])],
        "securities": securities,
        "identifiers": identifiers,
        "ended": ended,
        "cause": cause,
        "website": f"https://{cast.name.split()[0].lower().encode('ascii', 'ignore').decode()}.example",
        "description": f"Made-up company of the demo, in ISIC division {cast.industry}.",
    }


def _security(
    key: str,
    number: str,
    kind: str,
    title: str,
    ratio: float | None,
    listings: list[dict[str, Any]],
) -> dict[str, Any]:
    traded = [{**entry, "currency": CURRENCY[entry["mic"]]} for entry in listings]
    return {
        "key": f"{key}-{number}",
        "type": kind,
        "title": title,
        "ratio": ratio,
        "listings": traded,
    }


def _digits(text: str) -> str:
    return "".join(str(int(c, 36)) for c in text)


def _lei(body: str) -> str:
    body = body.upper()[:18].ljust(18, "0")
    return f"{body}{98 - int(_digits(body + '00')) % 97:02d}"


def _isin(body: str) -> str:
    total = 0
    for place, digit in enumerate(reversed(_digits(body))):
        doubled = int(digit) * (2 if place % 2 == 0 else 1)
        total += doubled // 10 + doubled % 10
    return f"{body}{-total % 10}"


def _sedol(body: str) -> str:
    total = sum(int(c, 36) * w for c, w in zip(body, (1, 3, 1, 7, 3, 9), strict=True))
    return f"{body}{-total % 10}"
