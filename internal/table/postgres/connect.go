// Package postgres reads tables of PostgreSQL databases and writes into them. Both go by COPY in its text format
// (PostgreSQL, "File Formats" of COPY), so that values come and go exactly as the server writes them, and by one
// transaction each: a reader sees one state of the database, and of a table that could not be written whole there is
// nothing.
//
//	src, err := postgres.Open("postgres://quay@db.example/harbour", "raw.landings", "")
//
// Where an address says nothing, the variables, password files and service files of the client library hold: PGHOST,
// PGPASSFILE, PGSERVICE and the others.
package postgres

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/url"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
)

// schemes are how addresses begin.
var schemes = []string{"postgres://", "postgresql://"}

// Is reports whether a path is the address of a database.
func Is(path string) bool {
	for _, s := range schemes {
		if len(path) >= len(s) && strings.EqualFold(path[:len(s)], s) {
			return true
		}
	}
	return false
}

// Part takes apart an address and the name of a table, which stands after #.
func Part(path string) (address, table string) {
	address, table, _ = strings.Cut(path, "#")
	return address, table
}

// Shown returns an address as it is shown: without a password, and without what stands after a question mark.
func Shown(address string) string {
	address, _, _ = strings.Cut(address, "?")
	scheme, rest, _ := strings.Cut(address, "://")
	host := strings.LastIndexByte(rest, '@')
	if user, _, has := strings.Cut(rest[:max(host, 0)], ":"); has {
		return scheme + "://" + user + rest[host:]
	}
	return address
}

// Errors of addresses.
var (
	ErrPassword = errors.New("a password does not belong into an address, where others see it: it comes from " +
		"PGPASSWORD, " +
		"from a password file (PGPASSFILE, ~/.pgpass) or from a service file")
	ErrAddress = errors.New("it is not the address of a database, as postgres://user@host/database#table is")
)

// patience is how long the server is waited for, where nothing else is said.
const patience = 15 * time.Second

// parse reads an address. Its errors say nothing of what stands in it.
func parse(address string) (*pgconn.Config, error) {
	if TellsPassword(address) {
		return nil, ErrPassword
	}
	if _, err := url.Parse(address); err != nil || !Is(address) {
		return nil, ErrAddress
	}
	cfg, err := pgconn.ParseConfig(address)
	if err != nil {
		var reason *pgconn.ParseConfigError
		if errors.As(err, &reason) && reason.Unwrap() != nil {
			err = reason.Unwrap()
		}
		return nil, fmt.Errorf("the address can't be used: %w", err)
	}
	if cfg.ConnectTimeout == 0 {
		cfg.ConnectTimeout = patience
	}
	return cfg, nil
}

// TellsPassword reports whether a text has an address in it that has a password in it, however it is written.
func TellsPassword(text string) bool {
	for _, scheme := range schemes {
		at := strings.Index(strings.ToLower(text), scheme)
		if at < 0 {
			continue
		}
		rest := text[at+len(scheme):]
		address, _, _ := strings.Cut(rest, "#")
		address, options, _ := strings.Cut(address, "?")
		host, _, _ := strings.Cut(rest, "/") // a # in it belongs to a password
		for _, part := range []string{address, host} {
			user, _, _ := strings.Cut(part[:max(0, strings.LastIndexByte(part, '@'))], "/")
			if strings.Contains(user, ":") {
				return true
			}
		}
		plainly, err := url.QueryUnescape(options)
		if strings.Contains(strings.ToLower(plainly+options), "password") || err != nil && options != "" {
			return true // what can't be read may have one
		}
	}
	return false
}

// Check reports what is wrong with an address.
func Check(address string) error {
	_, err := parse(address)
	return err
}

// session is how values are written, and how long a lock is waited for, until the end of the transaction.
const session = `SET LOCAL client_encoding = 'UTF8';
SET LOCAL DateStyle = 'ISO, YMD';
SET LOCAL IntervalStyle = 'iso_8601';
SET LOCAL TimeZone = 'UTC';
SET LOCAL bytea_output = 'hex';
SET LOCAL extra_float_digits = 1;
SET LOCAL standard_conforming_strings = on;
SELECT set_config('lock_timeout', '15s', true) WHERE current_setting('lock_timeout') = '0'`

// connect connects and begins a transaction.
func connect(ctx context.Context, address, begin string) (*pgconn.PgConn, error) {
	cfg, err := parse(address)
	if err != nil {
		return nil, err
	}
	c, err := pgconn.ConnectConfig(ctx, cfg)
	if err != nil {
		return nil, plain(err)
	}
	if _, err := c.Exec(ctx, begin+";\n"+session).ReadAll(); err != nil {
		closeNow(c)
		return nil, plain(err)
	}
	return c, nil
}

// stopPatience is how long is waited for a statement that is to stop.
const stopPatience = 2 * time.Second

// soon reports whether a statement that is to stop has ended: before it has, nobody else may use its connection.
func soon(ended <-chan struct{}) bool {
	select {
	case <-ended:
		return true
	case <-time.After(stopPatience):
		return false
	}
}

// closeNow ends a connection that nothing else uses, which takes back what its transaction has done.
func closeNow(c *pgconn.PgConn) {
	ctx, cancel := context.WithTimeout(context.Background(), time.Second)
	defer cancel()
	_ = c.Close(ctx) // whatever comes of it, the connection is at its end
}

// Codes of errors (PostgreSQL, Appendix A).
const (
	lockNotAvailable = "55P03"
	readOnly         = "25006"
	duplicateTable   = "42P07"
	dependent        = "2BP01"
	diskFull         = "53100"
)

// unvalued are errors of which what the server says has no value of a cell in it.
var unvalued = map[string]bool{lockNotAvailable: true, readOnly: true, dependent: true, diskFull: true}

// plain says what the server says, in one line.
func plain(err error) error { return said(err, false) }

// said is plain, which hides what a server says of values if they are private.
func said(err error, hides bool) error {
	var told *pgconn.PgError
	var unreached *pgconn.ConnectError
	var broken *net.OpError
	switch {
	case errors.As(err, &told) && hides && !unvalued[told.Code] && !strings.HasPrefix(told.ConstraintName, "pg_"):
		return fmt.Errorf("the server refuses what is sent (%s; column %q, rule %q): what it says is not shown, since columns "+
			"are private", told.Code, told.ColumnName, told.ConstraintName)
	case errors.As(err, &told):
		text := told.Message
		if told.Detail != "" {
			text += ": " + strings.TrimSuffix(told.Detail, ".")
		}
		switch {
		case told.Code == duplicateTable, strings.HasPrefix(told.ConstraintName, "pg_"): // of the server's own lists
			text = "another program has made a table of that name meanwhile: look at it, and run this again with --append or " +
				"--replace-table"
		case told.Code == lockNotAvailable:
			text = "another session holds a lock on the table (" + told.Message + ")"
		case told.Code == readOnly:
			text = fmt.Sprintf("%s (%s)", ErrQuery, told.Message)
		case told.Code == dependent:
			text += ": the table that is there can't be replaced while others depend on it"
		case told.Code == diskFull:
			text = "the disk of the server is full (" + told.Message + ")"
		}
		if where, _, _ := strings.Cut(told.Where, "\n"); where != "" && strings.HasPrefix(where, "COPY ") {
			text += " (" + where + ")"
		}
		return errors.New(strings.ReplaceAll(text, "\n", " "))
	case errors.As(err, &unreached):
		return fmt.Errorf("the server can't be reached: %w", oneLine(unreached.Unwrap()))
	case errors.Is(err, io.ErrUnexpectedEOF), errors.As(err, &broken):
		return fmt.Errorf("the connection to the server was lost: %w", oneLine(err))
	}
	return err
}

// oneLine returns an error in one line, of several reasons the first.
func oneLine(err error) error {
	text, _, _ := strings.Cut(strings.TrimSpace(err.Error()), "\n")
	return errors.New(text)
}

// quote quotes a name.
func quote(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// texts returns the rows of a query as texts, "" for null.
func texts(ctx context.Context, c *pgconn.PgConn, query string, args ...string) (rows [][]string, err error) {
	params := make([][]byte, len(args))
	for i, a := range args {
		params[i] = []byte(a)
	}
	r := c.ExecParams(ctx, query, params, nil, nil, nil)
	for r.NextRow() {
		var row []string
		for _, v := range r.Values() {
			row = append(row, string(v))
		}
		rows = append(rows, row)
	}
	if _, err := r.Close(); err != nil {
		return nil, plain(err)
	}
	return rows, nil
}
