// Package store keeps parts, plans and the library in SQLite. A save is one
// transaction; what was acknowledged survives a kill (WAL, synchronous FULL).
// One connection writes, several read.
package store

import (
	"context"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver

	"arete/core/workplan"
	"arete/shop"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open database.
type Store struct {
	write, read *sqlx.DB
}

func init() { sqlx.BindDriver("sqlite", sqlx.QUESTION) }

// Open opens or creates a database file and brings it up to date.
func Open(ctx context.Context, path string) (*Store, error) {
	dsn := func(extra string) string {
		return "file:" + (&url.URL{Path: path}).EscapedPath() + "?_pragma=journal_mode(WAL)&_pragma=busy_timeout(5000)&_pragma=foreign_keys(1)&_pragma=synchronous(FULL)" + extra
	}
	w, err := sqlx.Open("sqlite", dsn("&_txlock=immediate"))
	if err != nil {
		return nil, err
	}
	w.SetMaxOpenConns(1)
	if err := migrate(ctx, w.DB); err != nil {
		w.Close()
		return nil, fmt.Errorf("the database %s cannot be used: %w", path, err)
	}
	r, err := sqlx.Open("sqlite", dsn("&_pragma=query_only(1)"))
	if err != nil {
		w.Close()
		return nil, err
	}
	r.SetMaxOpenConns(4)
	return &Store{w, r}, nil
}

func migrate(ctx context.Context, db *sql.DB) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db, dir)
	if err != nil {
		return err
	}
	_, err = p.Up(ctx)
	return err
}

// Close closes the database.
func (s *Store) Close() error {
	return errors.Join(s.read.Close(), s.write.Close())
}

// inTx runs f in one writing transaction.
func (s *Store) inTx(ctx context.Context, f func(*sqlx.Tx) error) error {
	tx, err := s.write.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	if err := f(tx); err != nil {
		_ = tx.Rollback()
		return err
	}
	return tx.Commit()
}

func absent(err error, what string) error {
	if errors.Is(err, sql.ErrNoRows) {
		return fmt.Errorf("%s: %w", what, shop.ErrNotFound)
	}
	return err
}

type partRow struct {
	ID       int64  `db:"id"`
	Name     string `db:"name"`
	Number   string `db:"number"`
	Revision string `db:"revision"`
	Lot      int    `db:"lot"`
	File     string `db:"file"`
	Hash     string `db:"hash"`
}

const partColumns = "id, name, number, revision, lot, file, hash"

// Parts lists all parts, oldest first.
func (s *Store) Parts(ctx context.Context) ([]shop.Part, error) {
	var rows []partRow
	if err := s.read.SelectContext(ctx, &rows, "SELECT "+partColumns+" FROM part ORDER BY id"); err != nil {
		return nil, err
	}
	out := make([]shop.Part, len(rows))
	for i, r := range rows {
		out[i] = shop.Part(r)
	}
	return out, nil
}

// Part returns one part.
func (s *Store) Part(ctx context.Context, id int64) (shop.Part, error) {
	var r partRow
	err := s.read.GetContext(ctx, &r, "SELECT "+partColumns+" FROM part WHERE id = ?", id)
	return shop.Part(r), absent(err, "this part")
}

// Model returns the file a part was imported from.
func (s *Store) Model(ctx context.Context, id int64) ([]byte, error) {
	var b []byte
	err := s.read.GetContext(ctx, &b, "SELECT model FROM part WHERE id = ?", id)
	return b, absent(err, "this part")
}

// Files returns the files kept with a part.
func (s *Store) Files(ctx context.Context, part int64) ([]shop.File, error) {
	var out []shop.File
	return out, s.read.SelectContext(ctx, &out, "SELECT hash, name, data FROM file WHERE part_id = ? ORDER BY name", part)
}

// AddFile keeps a file with a part; the same one again changes its name.
func (s *Store) AddFile(ctx context.Context, part int64, f shop.File) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, "INSERT INTO file (part_id, hash, name, data) VALUES (?,?,?,?) ON CONFLICT (part_id, hash) DO UPDATE SET name = excluded.name", part, f.Hash, f.Name, f.Data)
		return err
	})
}

// AddPart saves a new part with its first plan.
func (s *Store) AddPart(ctx context.Context, p shop.Part, model []byte, plan workplan.Plan) (id int64, err error) {
	body, err := json.Marshal(plan)
	if err != nil {
		return 0, err
	}
	err = s.inTx(ctx, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx, "INSERT INTO part (name, number, revision, lot, file, hash, model, created) VALUES (?,?,?,?,?,?,?,?)",
			p.Name, p.Number, p.Revision, p.Lot, p.File, p.Hash, model, time.Now().UTC().Format(time.RFC3339))
		if err != nil {
			return err
		}
		if id, err = res.LastInsertId(); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "INSERT INTO plan (part_id, serial, label, body) VALUES (?, 1, 'import', ?)", id, string(body)); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, "INSERT INTO cursor (part_id, serial, version) VALUES (?, 1, 1)", id)
		return err
	})
	return id, err
}

// DeletePart removes a part and its plans.
func (s *Store) DeletePart(ctx context.Context, id int64) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, "DELETE FROM cursor WHERE part_id = ?", id); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, "DELETE FROM part WHERE id = ?", id)
		return err
	})
}

type planRow struct {
	Serial  int    `db:"serial"`
	Version int    `db:"version"`
	Body    string `db:"body"`
	Label   string `db:"label"`
	Newest  int    `db:"newest"`
	Oldest  int    `db:"oldest"`
}

// Plan returns the current plan of a part.
func (s *Store) Plan(ctx context.Context, part int64) (shop.Saved, error) {
	return plan(ctx, s.read, part)
}

func plan(ctx context.Context, q sqlx.QueryerContext, part int64) (shop.Saved, error) {
	var r planRow
	err := sqlx.GetContext(ctx, q, &r, `SELECT c.serial, c.version, p.body, p.label,
		(SELECT max(serial) FROM plan WHERE part_id = c.part_id) AS newest,
		(SELECT min(serial) FROM plan WHERE part_id = c.part_id) AS oldest
		FROM cursor c JOIN plan p ON p.part_id = c.part_id AND p.serial = c.serial WHERE c.part_id = ?`, part)
	if err != nil {
		return shop.Saved{}, absent(err, "this part")
	}
	out := shop.Saved{Version: r.Version, Label: r.Label, CanUndo: r.Serial > r.Oldest, CanRedo: r.Serial < r.Newest}
	if err := json.Unmarshal([]byte(r.Body), &out.Plan); err != nil {
		return out, fmt.Errorf("the saved plan cannot be read: %w", err)
	}
	return out, nil
}

// historyLength is how many plans are kept for undo.
const historyLength = 200

// SavePlan applies a change to the current plan and saves the result as a new
// entry of the history, in one transaction: of two users at once, the second
// changes what the first left. Plans that were undone are dropped.
func (s *Store) SavePlan(ctx context.Context, part int64, label string, change func(*workplan.Plan) error) (out shop.Saved, err error) {
	err = s.inTx(ctx, func(tx *sqlx.Tx) error {
		now, err := plan(ctx, tx, part)
		if err != nil {
			return err
		}
		if err := change(&now.Plan); err != nil {
			return err
		}
		body, err := json.Marshal(now.Plan)
		if err != nil {
			return err
		}
		for _, q := range []struct {
			text string
			args []any
		}{
			{"DELETE FROM plan WHERE part_id = ? AND serial > (SELECT serial FROM cursor WHERE part_id = ?)", []any{part, part}},
			{"INSERT INTO plan (part_id, serial, label, body) SELECT part_id, serial + 1, ?, ? FROM cursor WHERE part_id = ?", []any{label, string(body), part}},
			{"UPDATE cursor SET serial = serial + 1, version = version + 1 WHERE part_id = ?", []any{part}},
			{"DELETE FROM plan WHERE part_id = ? AND serial <= (SELECT serial FROM cursor WHERE part_id = ?) - ?", []any{part, part, historyLength}},
		} {
			if _, err := tx.ExecContext(ctx, q.text, q.args...); err != nil {
				return err
			}
		}
		out, err = plan(ctx, tx, part)
		return err
	})
	return out, err
}

// Step moves the cursor of the history by −1 (undo) or +1 (redo).
func (s *Store) Step(ctx context.Context, part int64, by int) (out shop.Saved, err error) {
	err = s.inTx(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, `UPDATE cursor SET serial = serial + ?, version = version + 1
			WHERE part_id = ? AND EXISTS (SELECT 1 FROM plan WHERE part_id = cursor.part_id AND serial = cursor.serial + ?)`, by, part, by)
		if err != nil {
			return err
		}
		out, err = plan(ctx, tx, part)
		return err
	})
	return out, err
}

// Library returns the shop library; ErrNotFound before the first save.
func (s *Store) Library(ctx context.Context) (*shop.Library, int, error) {
	var r struct {
		Body    string `db:"body"`
		Version int    `db:"version"`
	}
	if err := s.read.GetContext(ctx, &r, "SELECT body, version FROM library WHERE id = 1"); err != nil {
		return nil, 0, absent(err, "the library")
	}
	l, err := shop.ReadLibrary([]byte(r.Body))
	return l, r.Version, err
}

// SaveLibrary replaces the library.
func (s *Store) SaveLibrary(ctx context.Context, l *shop.Library) error {
	body, err := json.Marshal(l)
	if err != nil {
		return err
	}
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, "INSERT INTO library (id, body, version) VALUES (1, ?, 1) ON CONFLICT (id) DO UPDATE SET body = excluded.body, version = version + 1", string(body))
		return err
	})
}
