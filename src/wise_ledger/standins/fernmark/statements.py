"""Whole statements around the headline figures of a quarter: they balance,
cash rolls forward, parts add to totals.

Amounts are in the units of the filing. Tags are Fernmark's own; what it calls own shares and
repayments is positive.
"""

import random
from collections.abc import Sequence
from typing import Any

# Told in interim reports too; everything else only once a year.
INTERIM = frozenset(
    """
    gross_result selling_and_administration finance_charge result_before_tax tax_charge depreciation_charge
    cash_from_investing cash_from_financing cash_in_hand trade_receivables stocks fixed_assets_tangible
    liabilities_current borrowings_short borrowings_long retained_result interest_margin commissions_net
    credit_losses running_costs_bank lending_customers deposits_customers premiums_net_earned claims_net
    result_of_investments technical_provisions investments_total average_shares research_costs
    securities_short securities_long goodwill_acquired fixed_assets_intangible leased_assets lease_debt pensions
    own_shares_held securities_issued
    """.split()
)
_TECHNICAL = {"20", "21", "26", "27", "28", "29", "30", "62"}  # industries that spend on research


def _parts(total: int, shares: dict[str, float], rest: str, rng: random.Random) -> dict[str, int]:
    """A total cut into named parts; what rounding and noise leave over is `rest`."""
    out = {tag: round(total * share * rng.uniform(0.92, 1.08)) for tag, share in shares.items()}
    out[rest] = total - sum(out.values())
    return out


def flows(
    cast: Any, headline: dict[str, int], cash_change: int, rng: random.Random
) -> dict[str, int]:
    """The flows of one quarter beside its headline figures; `cash_change` is what cash rises by."""
    revenue, net = headline["revenue"], headline["net"]
    make = {"bank": _bank_flows, "insurer": _insurer_flows}.get(cast.template, _industrial_flows)
    out = make(cast, headline, rng)
    out["wages_and_salaries"] = round(revenue * 0.21)
    out["result_comprehensive"] = net + round(revenue * rng.uniform(-0.004, 0.006))
    out["depreciation_charge"] = round(revenue * rng.uniform(0.04, 0.05))
    out["share_awards"] = round(revenue * 0.003)
    out["tax_paid"] = max(0, round(out["tax_charge"] * rng.uniform(0.85, 1.05)))
    out["interest_paid_cash"] = round(revenue * 0.0105)
    if cast.template == "industrial":
        tied = headline["cash"] - net - out["depreciation_charge"] - out["share_awards"]
        out["working_capital_change"] = tied
    bought = round(revenue * 0.05) if rng.random() < 0.06 else 0
    sold = round(revenue * rng.uniform(0.001, 0.005))
    out |= {"companies_bought": bought, "assets_sold": sold}
    out["cash_from_investing"] = sold - bought - headline["capital"]
    out["cash_from_financing"] = cash_change - headline["cash"] - out["cash_from_investing"]
    paid = max(0, net - round(net * 0.6))
    buybacks = round(revenue * 0.004)
    borrowed = out["cash_from_financing"] + paid + buybacks
    out |= {"dividends_to_owners": paid, "own_shares_bought": buybacks}
    out["loans_raised"], out["loans_repaid"] = max(borrowed, 0), max(-borrowed, 0)
    out["cash_movement"] = cash_change
    return {
        tag: amount for tag, amount in out.items() if amount or tag in INTERIM - {"research_costs"}
    }


def _industrial_flows(cast: Any, headline: dict[str, int], rng: random.Random) -> dict[str, int]:
    revenue, operating = headline["revenue"], headline["operating"]
    gross = revenue - headline["cost"]
    research = round((gross - operating) * 0.22) if cast.industry in _TECHNICAL else 0
    charge = round(revenue * 0.011)
    before = operating - charge
    return {
        "gross_result": gross,
        "research_costs": research,
        "selling_and_administration": gross - operating - research,
        "finance_charge": charge,
        "result_before_tax": before,
        "tax_charge": before - headline["net"],
    }


def _bank_flows(cast: Any, headline: dict[str, int], rng: random.Random) -> dict[str, int]:
    revenue, net = headline["revenue"], headline["net"]
    parts = _parts(
        revenue, {"interest_margin": 0.64, "commissions_net": 0.26}, "trading_result", rng
    )
    before = round(net / 0.75)
    losses = round(revenue * rng.uniform(0.05, 0.1))
    return {
        **parts,
        "interest_received": round(parts["interest_margin"] * 1.9),
        "interest_to_depositors": round(parts["interest_margin"] * 1.9) - parts["interest_margin"],
        "credit_losses": losses,
        "running_costs_bank": revenue - losses - before,
        "result_before_tax": before,
        "tax_charge": before - net,
    }


def _insurer_flows(cast: Any, headline: dict[str, int], rng: random.Random) -> dict[str, int]:
    revenue, net = headline["revenue"], headline["net"]
    earned = round(revenue * rng.uniform(0.9, 0.94))
    before = round(net / 0.75)
    claims, winning = round(earned * rng.uniform(0.62, 0.68)), round(earned * 0.15)
    charge = round(revenue * 0.006)
    return {
        "premiums_gross_written": round(earned * 1.04),
        "premiums_net_earned": earned,
        "claims_net": claims,
        "costs_of_acquisition": winning,
        "running_costs_insurer": revenue - claims - winning - charge - before,
        "finance_charge": charge,
        "result_of_investments": revenue - earned,
        "result_before_tax": before,
        "tax_charge": before - net,
    }


def balances(
    cast: Any, headline: dict[str, int], first: dict[str, int], rng: random.Random
) -> dict[str, int]:
    """The balance sheet of a quarter's end beside its totals;
    `first` holds the totals of the first one.
    """
    assets, liabilities, equity = headline["assets"], headline["liabilities"], headline["equity"]
    if cast.template == "bank":
        own = {
            "cash_in_hand": 0.01,
            "central_bank_balances": 0.08,
            "lending_banks": 0.05,
            "lending_customers": 0.6,
            "trading_book": 0.05,
            "securities_held": 0.15,
            "fixed_assets_tangible": 0.01,
        }
        owed = {"deposits_customers": 0.73, "deposits_banks": 0.08, "securities_issued": 0.09}
        out = _parts(assets, own, "sundry_assets", rng) | _parts(
            liabilities, owed, "sundry_liabilities", rng
        )
        out |= {
            "capital_tier_one": round(equity * 0.92),
            "assets_risk_weighted": round(assets * 0.42),
        }
    elif cast.template == "insurer":
        own = {
            "cash_in_hand": 0.03,
            "investments_total": 0.8,
            "reinsurers_share": 0.05,
            "fixed_assets_tangible": 0.01,
        }
        owed = {"technical_provisions": 0.74, "premiums_unearned": 0.12, "borrowings_long": 0.04}
        out = _parts(assets, own, "sundry_assets", rng) | _parts(
            liabilities, owed, "sundry_liabilities", rng
        )
    else:
        out = _industrial_balance(headline, rng)
    capital, premium = round(first["equity"] * 0.12), round(first["equity"] * 0.2)
    own_shares, reserves = round(first["equity"] * 0.03), round(equity * rng.uniform(-0.02, 0.03))
    out |= {"capital_nominal": capital, "capital_premium": premium, "own_shares_held": own_shares}
    out |= {
        "reserves_other": reserves,
        "retained_result": equity - capital - premium + own_shares - reserves,
    }
    return out


def _industrial_balance(headline: dict[str, int], rng: random.Random) -> dict[str, int]:
    current = {
        "cash_in_hand": 0.26,
        "securities_short": 0.06,
        "trade_receivables": 0.36,
        "stocks": 0.22,
        "prepayments": 0.04,
    }
    lasting = {
        "fixed_assets_tangible": 0.56,
        "leased_assets": 0.06,
        "goodwill_acquired": 0.13,
        "fixed_assets_intangible": 0.09,
        "securities_long": 0.06,
        "tax_assets_deferred": 0.02,
    }
    soon = {"trade_payables": 0.42, "accruals": 0.17, "borrowings_short": 0.16, "tax_due": 0.04,
            "income_deferred": 0.08}  # fmt: skip
    later = {
        "borrowings_long": 0.6,
        "lease_debt": 0.08,
        "pensions": 0.1,
        "tax_liabilities_deferred": 0.06,
        "provisions_made": 0.07,
    }
    fixed = headline["assets"] - headline["current"]
    owed_soon = round(headline["liabilities"] * rng.uniform(0.42, 0.48))
    owed_later = headline["liabilities"] - owed_soon
    return {
        **_parts(headline["current"], current, "assets_current_other", rng),
        **_parts(fixed, lasting, "assets_lasting_other", rng),
        "assets_lasting": fixed,
        **_parts(owed_soon, soon, "liabilities_current_other", rng),
        "liabilities_current": owed_soon,
        **_parts(owed_later, later, "liabilities_lasting_other", rng),
        "liabilities_lasting": owed_later,
    }


def beside(
    cast: Any, headlines: Sequence[dict[str, int]], shares: int, rng: random.Random
) -> dict[str, int]:
    """What an annual report gives beside the statements;
    the last two have no place in most catalogues.
    """
    revenue = sum(h["revenue"] for h in headlines)
    out = {"staff": max(40, round(shares / 9_000)), "training_hours": rng.randint(8, 40) * 1_000}
    if cast.industry in _TECHNICAL:
        out["orders_in_hand"] = round(revenue * rng.uniform(0.3, 0.9))
    out["water_drawn"] = rng.randint(100, 9_000)
    return out
