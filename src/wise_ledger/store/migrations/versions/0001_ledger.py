"""The ledger's tables, its append-only triggers, and the service's own state."""

from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

_TABLES = """
CREATE TABLE batches (number INTEGER NOT NULL PRIMARY KEY, recorded_at BIGINT NOT NULL, kind TEXT NOT NULL,
  note TEXT NOT NULL, rows INTEGER NOT NULL, content TEXT NOT NULL, previous TEXT NOT NULL, hash TEXT NOT NULL);
CREATE TABLE sources (number INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  name TEXT NOT NULL UNIQUE, title TEXT NOT NULL);
CREATE TABLE items (number INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  code TEXT NOT NULL UNIQUE);
CREATE TABLE companies (number INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  id TEXT NOT NULL UNIQUE);
CREATE TABLE documents (number INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  source INTEGER NOT NULL REFERENCES sources (number), sha256 TEXT NOT NULL UNIQUE, key TEXT NOT NULL,
  title TEXT NOT NULL, kind TEXT NOT NULL, media_type TEXT NOT NULL, published_at BIGINT, content BLOB NOT NULL);
CREATE INDEX documents_by_key ON documents (source, key);
CREATE TABLE facts (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  position INTEGER NOT NULL, company INTEGER NOT NULL REFERENCES companies (number),
  item INTEGER NOT NULL REFERENCES items (number), basis TEXT NOT NULL, period_start INTEGER,
  period_end INTEGER NOT NULL, declared_end INTEGER, fiscal_period TEXT, value FLOAT, reported TEXT NOT NULL,
  scale INTEGER NOT NULL, unit TEXT NOT NULL, published_at BIGINT NOT NULL, assumed BOOLEAN NOT NULL,
  source INTEGER NOT NULL REFERENCES sources (number), document INTEGER NOT NULL REFERENCES documents (number),
  place TEXT NOT NULL);
CREATE INDEX facts_by_item ON facts (item, batch);
CREATE INDEX facts_by_company ON facts (company, item);
CREATE UNIQUE INDEX facts_same ON facts (company, item, source, basis, period_end,
  coalesce(period_start, -2147483648), published_at, unit, coalesce(value, 'withdrawn'));
CREATE TABLE attributes (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  company INTEGER NOT NULL REFERENCES companies (number), name TEXT NOT NULL, value TEXT NOT NULL,
  valid_from INTEGER NOT NULL, published_at BIGINT NOT NULL, source INTEGER NOT NULL REFERENCES sources (number));
CREATE TABLE securities (number INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  company INTEGER NOT NULL REFERENCES companies (number), id TEXT NOT NULL UNIQUE, key TEXT NOT NULL,
  type TEXT NOT NULL, title TEXT NOT NULL, ratio FLOAT, source INTEGER NOT NULL REFERENCES sources (number),
  UNIQUE (source, key));
CREATE TABLE listings (number INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  security INTEGER NOT NULL REFERENCES securities (number), id TEXT NOT NULL UNIQUE, symbol TEXT NOT NULL,
  mic TEXT NOT NULL, currency TEXT NOT NULL, valid_from INTEGER NOT NULL, valid_to INTEGER, main BOOLEAN NOT NULL,
  source INTEGER NOT NULL REFERENCES sources (number));
CREATE TABLE decisions (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  term TEXT NOT NULL, company INTEGER REFERENCES companies (number), who TEXT NOT NULL, why TEXT NOT NULL);
CREATE TABLE identifiers (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  company INTEGER NOT NULL REFERENCES companies (number), scheme TEXT NOT NULL, value TEXT NOT NULL,
  valid_from INTEGER NOT NULL, valid_to INTEGER, security INTEGER REFERENCES securities (number),
  source INTEGER NOT NULL REFERENCES sources (number));
CREATE INDEX identifiers_by_value ON identifiers (scheme, value);
CREATE TABLE lists (number INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  name TEXT NOT NULL UNIQUE, title TEXT NOT NULL, rule TEXT);
CREATE TABLE list_notes (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  list INTEGER NOT NULL REFERENCES lists (number), title TEXT NOT NULL, description TEXT NOT NULL,
  archived BOOLEAN NOT NULL, who TEXT NOT NULL);
CREATE TABLE members (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  list INTEGER NOT NULL REFERENCES lists (number), company INTEGER NOT NULL REFERENCES companies (number),
  valid_from INTEGER NOT NULL, valid_to INTEGER, weight FLOAT,
  source INTEGER NOT NULL REFERENCES sources (number));
CREATE TABLE tokens (id TEXT NOT NULL PRIMARY KEY, name TEXT NOT NULL, hash TEXT NOT NULL,
  created_at BIGINT NOT NULL, revoked_at BIGINT);
CREATE TABLE runs (id INTEGER NOT NULL PRIMARY KEY, kind TEXT NOT NULL, source TEXT NOT NULL, list TEXT,
  request_key TEXT UNIQUE, state TEXT NOT NULL, problem TEXT, total INTEGER, created_at BIGINT NOT NULL,
  ended_at BIGINT);
CREATE TABLE outcomes (run INTEGER NOT NULL REFERENCES runs (id), subject TEXT NOT NULL, company TEXT,
  state TEXT NOT NULL, reason TEXT NOT NULL, facts INTEGER NOT NULL, tries INTEGER NOT NULL,
  ended_at BIGINT NOT NULL, PRIMARY KEY (run, subject))
"""

_APPEND_ONLY = (
    "batches",
    "sources",
    "items",
    "companies",
    "documents",
    "facts",
    "attributes",
    "securities",
    "listings",
    "decisions",
    "identifiers",
    "lists",
    "list_notes",
    "members",
)


def upgrade() -> None:
    for statement in _TABLES.split(";"):
        op.execute(statement.strip())
    for table in _APPEND_ONLY:
        for verb in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: {table} takes no {verb}'); END"
            )
