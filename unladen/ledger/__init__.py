"""Bytes and requests accounted for."""

from unladen.ledger.account import Account, Saving, account

__all__ = ["Account", "Saving", "account"]
