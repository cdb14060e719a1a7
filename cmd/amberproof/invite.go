package main

import (
	"context"
	"errors"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"amberproof/internal/accounts"
	"amberproof/internal/identity"
)

// inviteCommand is the way back in for whoever has the data folder and has lost the password.
func inviteCommand() *cobra.Command {
	var data string
	c := &cobra.Command{
		Use: "invite NAME", Short: "Make a link by which somebody sets a new password; while the server is stopped", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return invite(cmd.Context(), data, args[0], cmd.OutOrStdout())
		},
	}
	c.Flags().StringVar(&data, "data", dataFolder(), "data folder (or AMBERPROOF_DATA)")
	return c
}

func invite(ctx context.Context, data, name string, out io.Writer) (err error) {
	st, _, leave, err := openFolder(ctx, data)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, leave()) }()
	link, err := accounts.New(st, identity.Guard{Owners: st}, "").Recover(ctx, name)
	if err != nil {
		return err
	}
	_, err = fmt.Fprintf(out, "Start the server, then open its address with /invited#%s at the end. It can be used once, until %s.\n",
		link.Token, link.Until.Local().Format("2 January 15:04"))
	return err
}
