package main

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"arete/shop"
)

func simulateCommand() *cobra.Command {
	var asJSON bool
	var library string
	c := &cobra.Command{
		Use:   "simulate DIR/report.json",
		Short: "Read the posted text back and prove it again",
		Long:  "Reads the program beside a report, whoever may have changed it since, simulates it and compares it with the part.\nExit status: 0 it makes the part; 1 something is left or wrong; 2 the input cannot be used.",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			proof, err := again(c, args[0], library)
			if err != nil {
				return err
			}
			j := shop.DescribeProof(proof)
			if asJSON {
				if err := printJSON(c.OutOrStdout(), map[string]any{"proof": j}); err != nil {
					return err
				}
			} else {
				fmt.Fprintf(c.OutOrStdout(), "overcut %.4f mm, excess %.4f mm, %d contacts\n", j.Overcut, j.Excess, len(j.Collisions))
				for _, s := range j.Findings {
					fmt.Fprintln(c.OutOrStdout(), "  "+s)
				}
			}
			if !proof.Clean() {
				return exit{1, nil}
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	c.Flags().StringVar(&library, "library", "", "shop library in JSON (default: the built-in one)")
	return c
}

// again proves the text beside a report.
func again(c *cobra.Command, path, library string) (*shop.Proof, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, unusable(err)
	}
	var rep shop.Report
	if err := json.Unmarshal(data, &rep); err != nil || len(rep.Setups) == 0 || len(rep.Setups[0].Programs) == 0 {
		return nil, unusable(fmt.Errorf("%s is not a report of arete plan: %v", path, err))
	}
	lib, err := openLibrary(library)
	if err != nil {
		return nil, err
	}
	m, err := openModel(rep.Input.File)
	if err != nil {
		return nil, err
	}
	if m.Hash != rep.Input.SHA256 {
		return nil, unusable(fmt.Errorf("%s has changed since the report was made: plan it again", rep.Input.File))
	}
	if err := attach(m, rep.Plan.Setup); err != nil {
		return nil, unusable(err)
	}
	text, err := os.ReadFile(filepath.Join(filepath.Dir(path), filepath.Base(rep.Setups[0].Programs[0])))
	if err != nil {
		return nil, unusable(err)
	}
	r, err := shop.NewEngine().Compute(c.Context(), m, rep.Plan, lib, nil)
	if err != nil {
		return nil, unusable(err)
	}
	proof, err := shop.ProveText(c.Context(), r, string(text))
	if err != nil {
		return nil, unusable(err)
	}
	return proof, nil
}
