package main

import "github.com/spf13/cobra"

func simulateCommand() *cobra.Command { return &cobra.Command{Use: "simulate"} }
func benchCommand() *cobra.Command    { return &cobra.Command{Use: "bench"} }
