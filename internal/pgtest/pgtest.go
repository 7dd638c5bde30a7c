// Package pgtest gives tests a database of their own on the PostgreSQL that
// ‘make test’ starts.
package pgtest

import (
	"context"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/oklog/ulid/v2"
)

// Database makes an empty database for a test and returns its address. It is
// dropped when the test ends. Without DATABASE_URL the test fails, or is
// skipped in short mode.
func Database(t testing.TB) string {
	t.Helper()
	base := os.Getenv("DATABASE_URL")
	if base == "" {
		if testing.Short() {
			t.Skip("no DATABASE_URL")
		}
		t.Fatal("this test needs PostgreSQL: run ‘make test’, or set DATABASE_URL, or use -short")
	}
	ctx := context.Background()
	name := "test_" + strings.ToLower(ulid.Make().String())
	conn, err := pgx.Connect(ctx, base)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := conn.Exec(ctx, "create database "+name); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_, _ = conn.Exec(ctx, "drop database if exists "+name+" with (force)")
		_ = conn.Close(ctx)
	})
	u, err := url.Parse(base)
	if err != nil {
		t.Fatal(err)
	}
	u.Path = "/" + name
	return u.String()
}

// Lose removes a database of Database while programs are at it, as if its disk were gone.
func Lose(t testing.TB, address string) {
	t.Helper()
	ctx := context.Background()
	u, err := url.Parse(address)
	if err != nil {
		t.Fatal(err)
	}
	conn, err := pgx.Connect(ctx, os.Getenv("DATABASE_URL"))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(ctx) }()
	if _, err := conn.Exec(ctx, "drop database "+strings.TrimPrefix(u.Path, "/")+" with (force)"); err != nil {
		t.Fatal(err)
	}
}
