package main

import (
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"proscen/internal/parcel"
	"proscen/internal/store"
)

// packCommand writes a scene of the database with its files as a zip.
func packCommand() *cobra.Command {
	var s settings
	c := &cobra.Command{
		Use: "pack SCENE FILE.zip", Short: "Write a scene with its files as one zip",
		Long: "Write a scene with its files as one zip. SCENE is its id, or its title, or Production/Title.",
		Args: exactly(2, "name the scene and the file: proscen pack SCENE FILE.zip"),
		RunE: func(cmd *cobra.Command, args []string) error {
			st, bucket, end, err := s.connect(cmd.Context())
			if err != nil {
				return err
			}
			defer end()
			id, err := findScene(cmd, st, args[0])
			if err != nil {
				return err
			}
			doc, _, err := st.Document(cmd.Context(), id)
			if err != nil {
				return err
			}
			return writeFrom(args[1], func(w io.Writer) error {
				missing, err := parcel.Pack(cmd.Context(), w, bucket, doc)
				for _, f := range missing {
					fmt.Fprintf(cmd.ErrOrStderr(), "missing: the file of %s is not in the store\n", f.For)
				}
				return err
			})
		},
	}
	s.flags(c)
	return c
}

func findScene(cmd *cobra.Command, st *store.Store, name string) (string, error) {
	all, err := st.Scenes(cmd.Context())
	if err != nil {
		return "", err
	}
	var found []string
	for _, s := range all {
		if s.ID == name {
			return s.ID, nil
		}
		if s.Title == name || s.Production+"/"+s.Title == name {
			found = append(found, s.ID)
		}
	}
	switch len(found) {
	case 0:
		return "", badInput("there is no scene %q", name)
	case 1:
		return found[0], nil
	}
	return "", badInput("there are %d scenes %q; write Production/Title, or the id", len(found), name)
}

// unpackCommand takes a packed scene into the database.
func unpackCommand() *cobra.Command {
	var s settings
	c := &cobra.Command{
		Use: "unpack FILE.zip", Short: "Take in a scene that ‘pack’ has written",
		Args: exactly(1, "name the file: proscen unpack FILE.zip"),
		RunE: func(cmd *cobra.Command, args []string) error {
			f, err := os.Open(args[0])
			if err != nil {
				return badInput("%s cannot be opened: %w", args[0], err)
			}
			defer func() { _ = f.Close() }()
			at, err := f.Stat()
			if err != nil {
				return err
			}
			st, bucket, end, err := s.connect(cmd.Context())
			if err != nil {
				return err
			}
			defer end()
			doc, missing, err := parcel.Unpack(cmd.Context(), f, at.Size(), bucket)
			if err != nil {
				return inputError{err}
			}
			info, err := st.TakeIn(cmd.Context(), doc)
			if err != nil {
				return err
			}
			for _, f := range missing {
				fmt.Fprintf(cmd.ErrOrStderr(), "missing: the file of %s is neither in the zip nor in the store\n", f.For)
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s  %s/%s\n", info.ID, info.Production, info.Title)
			return nil
		},
	}
	s.flags(c)
	return c
}
