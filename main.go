// Umbau rebuilds raw sales extracts into one tidy fact table.
package main

import (
	"os"

	"umbau/internal/cli"
)

func main() { os.Exit(cli.Main(os.Args[1:], os.Stdout, os.Stderr)) }
