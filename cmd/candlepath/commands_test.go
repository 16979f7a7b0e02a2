package main

import (
	"bytes"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
)

var update = flag.Bool("update", false, "write what comes out into the cases")

// TestMain runs the program itself where a case asks for it.
func TestMain(m *testing.M) {
	if os.Getenv("CANDLEPATH_RUN") != "" {
		os.Exit(run(os.Args[1:]))
	}
	os.Exit(m.Run())
}

// Each case of testdata is an archive: input files, a file "run" with a command
// a line (after <, what it reads), and "out" with what the commands print and
// their exit codes.
func TestCommands(t *testing.T) {
	cases, err := filepath.Glob("testdata/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, cases)
	for _, name := range cases {
		t.Run(strings.TrimSuffix(filepath.Base(name), ".txtar"), func(t *testing.T) {
			archive, err := txtar.ParseFile(name)
			require.NoError(t, err)
			dir, out := t.TempDir(), bytes.Buffer{}
			var commands, want string
			for _, f := range archive.Files {
				switch f.Name {
				case "run":
					commands = string(f.Data)
				case "out":
					want = string(f.Data)
				default:
					require.NoError(t, os.WriteFile(filepath.Join(dir, f.Name), bytes.TrimSuffix(f.Data, []byte("⏎\n")), 0o644))
				}
			}
			for line := range strings.Lines(commands) {
				if line = strings.TrimSpace(line); line != "" {
					fmt.Fprintf(&out, "$ %s\n%s", line, runIn(t, dir, line))
				}
			}
			if !*update {
				require.Equal(t, want, out.String())
				return
			}
			for i := range archive.Files {
				if archive.Files[i].Name == "out" {
					archive.Files[i].Data = out.Bytes()
				}
			}
			require.NoError(t, os.WriteFile(name, txtar.Format(archive), 0o644))
		})
	}
}

func runIn(t *testing.T, dir, line string) string {
	line, input, _ := strings.Cut(line, " < ")
	self, err := os.Executable()
	require.NoError(t, err)
	cmd := exec.Command(self, strings.Fields(line)...)
	cmd.Dir, cmd.Env = dir, append(os.Environ(), "CANDLEPATH_RUN=1")
	if input != "" {
		in, err := os.Open(filepath.Join(dir, input))
		require.NoError(t, err)
		defer in.Close()
		cmd.Stdin = in
	}
	out, _ := cmd.CombinedOutput()
	if code := cmd.ProcessState.ExitCode(); code != 0 {
		return fmt.Sprintf("%s(exit %d)\n", out, code)
	}
	return string(out)
}
