// Package loopback finds addresses on this machine for servers that are programs of their own.
package loopback

import (
	"fmt"
	"math/rand/v2"
	"net"
	"strconv"
)

// FreePort finds a port for a server that begins later, or stops and begins again. It stays
// below the ports that Linux gives to outgoing connections (32768 and up, ip(7)), any of which
// could take it in between.
func FreePort() (int, error) {
	var refused error
	for range 100 {
		port := 20000 + rand.IntN(12000)
		l, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
		if err == nil {
			return port, l.Close()
		}
		refused = err
	}
	return 0, fmt.Errorf("find a free port: %w", refused)
}

// FreeAddress is FreePort as host:port.
func FreeAddress() (string, error) {
	port, err := FreePort()
	return net.JoinHostPort("127.0.0.1", strconv.Itoa(port)), err
}
