package loopback

import (
	"net"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// An outgoing connection of any program takes a port of the kernel's own range; a server that was
// given one of these could find it taken when it begins.
func TestPortsAreNotThoseOfOutgoingConnections(t *testing.T) {
	words, err := os.ReadFile("/proc/sys/net/ipv4/ip_local_port_range")
	require.NoError(t, err)
	from, err := strconv.Atoi(strings.Fields(string(words))[0])
	require.NoError(t, err)
	for range 100 {
		port, err := FreePort()
		require.NoError(t, err)
		require.Less(t, port, max(from, 32768))
		l, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
		require.NoError(t, err)
		require.NoError(t, l.Close())
	}
}
