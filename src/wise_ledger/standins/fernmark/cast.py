"""The companies of the made-up world and what is particular about each."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Cast:
    """A company's part: `style` is how it reports,
    `margin` its operating margin in the middle of the years.
    """

    key: str
    name: str
    symbol: str
    country: str
    currency: str
    industry: str  # ISIC Rev. 4 division
    revenue: float  # of the first year, in millions
    margin: float
    growth: float = 0.05
    style: str = "discrete"  # discrete, cumulative, both, half
    year_end: int = 12
    template: str = "industrial"
    weeks: bool = False  # years of 52 or 53 weeks, to the Saturday nearest the end of the month
    publishes: str = "instant"  # instant, date, never
    lag: int = 0  # days later than others
    first_year: int = 2021
    missed: tuple[str, ...] = ()  # filings that never came
    seat: str = ""
    crowd: bool = False  # drawn, not named: goes with the cycle of its branch, or the interest rate


_XA, _XB, _XC = ("XA", "USD"), ("XB", "EUR"), ("XC", "JPY")

CAST: tuple[Cast, ...] = (
    Cast(
        "FM-0001",
        "Ashgrove Kilnworks",
        "AGK@ZALD",
        *_XA,
        "23",
        2020.0,
        0.178,
        0.055,
        "both",
        seat="Ashgrove",
    ),
    Cast(
        "FM-0002", "Pellam Tide Power", "PTP@ZBRE", *_XB, "35", 5140.0, 0.246, 0.06, seat="Pellam"
    ),
    Cast("FM-0003", "Quennick Foundry", "QNK@ZALD", *_XA, "24", 1310.0, 0.158, 0.09, "cumulative"),
    Cast("FM-0004", "Marrowby Orchards", "MRB@ZBRE", *_XB, "01", 640.0, 0.171, 0.04, "half"),
    Cast("FM-0005", "Oxlade Instruments", "OXL@ZCAL", *_XC, "26", 184000.0, 0.31, 0.12, "both", 3),
    Cast("FM-0006", "Tarn & Sable Textiles", "TSB@ZALD", *_XA, "13", 715.0, 0.162, 0.03),
    Cast(
        "FM-0007", "Vennet Harbour Lines", "VHL@ZBRE", *_XB, "50", 2980.0, 0.224, 0.14, "cumulative"
    ),
    Cast("FM-0008", "Isken Paper", "ISK@ZCAL", *_XC, "17", 92000.0, 0.149, 0.03, "half", 3),
    Cast("FM-0009", "Brackwater Glass", "BWG@ZALD", *_XA, "23", 455.0, 0.083, 0.02),
    Cast("FM-0010", "Corrie Lantern Works", "CLW@ZBRE", *_XB, "27", 380.0, 0.117, 0.08, "both", 6),
    Cast("FM-0011", "Dunmarsh Bank", "DMB@ZALD", *_XA, "64", 3900.0, 0.3, 0.04, template="bank"),
    Cast(
        "FM-0012",
        "Eskwith Mutual Insurance",
        "EMI@ZBRE",
        *_XB,
        "65",
        2650.0,
        0.12,
        0.03,
        "half",
        template="insurer",
    ),
    Cast(
        "FM-0013",
        "Fallowmere Stores",
        "FLM@ZALD",
        *_XA,
        "47",
        8120.0,
        0.052,
        0.05,
        "cumulative",
        1,
        weeks=True,
    ),
    Cast(
        "FM-0014", "Garrick Moor Quarries", "GMQ@ZALD", *_XA, "08", 540.0, 0.192, 0.02, "cumulative"
    ),
    Cast("FM-0015", "Hallowick Tools", "HLT@ZBRE", *_XB, "28", 1690.0, 0.134, 0.06),
    Cast("FM-0016", "Imber Cycleworks", "IMB@ZCAL", *_XC, "30", 61000.0, 0.071, 0.1, "both", 3),
    Cast(
        "FM-0017",
        "Jorrow Shipwrights",
        "JRW@ZCAL",
        *_XC,
        "30",
        240000.0,
        0.045,
        0.02,
        "cumulative",
        3,
        lag=75,
    ),
    Cast("FM-0018", "Kestwick Chemicals", "KWC@ZBRE", *_XB, "20", 3470.0, 0.156, 0.04, "both"),
    Cast(
        "FM-0019",
        "Lindle Dairy",
        "LDL@ZALD",
        *_XA,
        "10",
        1180.0,
        0.064,
        0.03,
        missed=("2023Q2", "2023Q3"),
    ),
    Cast("FM-0020", "Merrowfield Rail", "MFR@ZBRE", *_XB, "49", 4210.0, 0.181, 0.05, "half", 6),
    Cast(
        "FM-0021",
        "Nethercot Timber",
        "NCT@ZCAL",
        *_XC,
        "16",
        38000.0,
        0.098,
        0.05,
        publishes="date",
    ),
    Cast(
        "FM-0022",
        "Orrin Salt",
        "ORS@ZALD",
        *_XA,
        "08",
        295.0,
        0.207,
        0.03,
        "half",
        publishes="never",
    ),
    Cast("FM-0023", "Penhollow Clocks", "PHC@ZBRE", *_XB, "26", 172.0, 0.166, 0.04, "both"),
    Cast(
        "FM-0024", "Ravensedge Optics", "RVO@ZCAL", *_XC, "26", 27500.0, 0.187, 0.2, first_year=2024
    ),
)
