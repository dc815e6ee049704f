package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"arete/demo"
	"arete/shop"
	"arete/store"
	"arete/web"
)

func demoCommand() *cobra.Command {
	var db, addr string
	c := &cobra.Command{
		Use:   "demo",
		Short: "Start the application with the demo data of Fennmark Instrument Works",
		Args:  cobra.NoArgs,
		RunE:  func(c *cobra.Command, _ []string) error { return serve(c, db, addr, true) },
	}
	c.Flags().StringVar(&db, "db", filepath.Join("build", "demo.db"), "database file")
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8220", "address to listen on")
	return c
}

func serveCommand() *cobra.Command {
	var db, addr string
	c := &cobra.Command{
		Use:   "serve --db FILE",
		Short: "Start the application with a shop's data",
		Args:  cobra.NoArgs,
		RunE:  func(c *cobra.Command, _ []string) error { return serve(c, db, addr, false) },
	}
	c.Flags().StringVar(&db, "db", "", "database file; it is made when it does not exist")
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8220", "address to listen on")
	_ = c.MarkFlagRequired("db")
	return c
}

func serve(c *cobra.Command, db, addr string, withDemo bool) error {
	ctx := c.Context()
	if err := makeFolder(db); err != nil {
		return unusable(err)
	}
	st, err := store.Open(ctx, db)
	if err != nil {
		return unusable(err)
	}
	defer st.Close()
	desk := shop.NewDesk(st)
	defer desk.Close()
	if err := fill(ctx, st, desk, withDemo); err != nil {
		return unusable(err)
	}
	h, err := web.Handler(desk)
	if err != nil {
		return err
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return unusable(fmt.Errorf("cannot listen on %s: %w; choose another with --addr", addr, err))
	}
	fmt.Fprintf(c.OutOrStdout(), "Arete is ready: http://%s/\n", l.Addr())
	srv := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 5 * time.Minute, IdleTimeout: 2 * time.Minute}
	go func() {
		<-ctx.Done()
		stop, cancel := context.WithTimeout(context.Background(), 2*time.Second)
		defer cancel()
		_ = srv.Shutdown(stop)
	}()
	if err := srv.Serve(l); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

// fill puts the built-in library, and the demo parts, into an empty database.
func fill(ctx context.Context, st *store.Store, desk *shop.Desk, withDemo bool) error {
	if _, _, err := st.Library(ctx); errors.Is(err, shop.ErrNotFound) {
		lib, err := shop.ReadLibrary(demo.Library)
		if err != nil {
			return err
		}
		if err := st.SaveLibrary(ctx, lib); err != nil {
			return err
		}
	} else if err != nil {
		return err
	}
	parts, err := desk.Parts(ctx)
	if err != nil || !withDemo || len(parts) > 0 {
		return err
	}
	for _, p := range demo.Bench {
		data, err := demo.Parts.ReadFile("parts/" + p.File + ".step")
		if err != nil {
			return err
		}
		part := shop.Part{Name: p.Name, Number: p.Number, Revision: p.Revision, Lot: p.Lot, File: p.File + ".step"}
		if _, err := desk.Import(ctx, part, data); err != nil {
			return fmt.Errorf("%s: %w", p.Name, err)
		}
	}
	return nil
}

func makeFolder(db string) error {
	if strings.TrimSpace(db) == "" {
		return errors.New("--db is empty: name a file")
	}
	return mkdirAll(filepath.Dir(db))
}
