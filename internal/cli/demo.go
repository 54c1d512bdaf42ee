package cli

import "github.com/spf13/cobra"

func (a *App) demoCommand() *cobra.Command { return &cobra.Command{Use: "demo"} }
