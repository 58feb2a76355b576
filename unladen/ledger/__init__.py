"""Bytes and requests accounted for."""

from unladen.ledger.account import Account, NotComparable, Saving, account
from unladen.ledger.comparison import compare_documents, compare_weigh_ins
from unladen.ledger.document import ledger_document, ledger_from, ledger_schema, read_ledger
from unladen.ledger.estimate import Estimate, Worth, estimate, worth
from unladen.ledger.replacements import Replacement, replacements, replacements_csv

__all__ = [
    "Account", "Estimate", "NotComparable", "Replacement", "Saving", "Worth", "account", "compare_documents",
    "compare_weigh_ins", "estimate", "ledger_document", "ledger_from", "ledger_schema", "read_ledger", "replacements",
    "replacements_csv", "worth",
]  # fmt: skip
