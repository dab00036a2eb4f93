package http

import (
	"net"
	"net/netip"
	"strings"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/sites"
)

// Where a request comes from, and where it was sent to. What its headers say of both is
// believed of the proxies that the settings trust, and of nobody else.

// placeOf is the network address that a request comes from. Each proxy adds the address it
// was asked from at the end of X-Forwarded-For, so that the last that is no trusted proxy is
// the visitor's: whatever stands before it, the visitor may have written.
func (s *server) placeOf(c *fiber.Ctx) string {
	direct := c.Context().RemoteIP().String()
	if !c.IsProxyTrusted() {
		return direct
	}
	hops := strings.Split(c.Get(fiber.HeaderXForwardedFor), ",")
	for i := len(hops) - 1; i >= 0; i-- {
		hop, err := netip.ParseAddr(strings.TrimSpace(hops[i]))
		if err != nil {
			break
		}
		if direct = hop.Unmap().String(); !s.trusted(hop.Unmap()) {
			break
		}
	}
	return direct
}

func (s *server) trusted(place netip.Addr) bool {
	for _, p := range s.proxies {
		if p.Contains(place) {
			return true
		}
	}
	return false
}

// networkOf is a network address as limits count it: an IPv6 subscriber has 2^64 addresses
// (RFC 6177), and counts as one.
func networkOf(place string) string {
	ip, err := netip.ParseAddr(place)
	if err != nil || ip.Is4() {
		return place
	}
	prefix, err := ip.Prefix(64)
	if err != nil {
		return place
	}
	return prefix.String()
}

// proxiesOf reads a list of addresses and networks.
func proxiesOf(list []string) ([]netip.Prefix, error) {
	var proxies []netip.Prefix
	for _, entry := range list {
		if p, err := netip.ParsePrefix(entry); err == nil {
			proxies = append(proxies, p.Masked())
			continue
		}
		ip, err := netip.ParseAddr(entry)
		if err != nil {
			return nil, err
		}
		proxies = append(proxies, netip.PrefixFrom(ip, ip.BitLen()))
	}
	return proxies, nil
}

// address is a path as it is reached from outside: at a host that the help centre is asked
// for under, or else at the configured address. What a request says of itself does not count
// otherwise.
func (s *server) address(c *fiber.Ctx, path string) string {
	return s.sites.AddressAt(site(c), hostOf(c)) + path
}

// hostOf is the host that a request was sent to, without a port.
func hostOf(c *fiber.Ctx) string {
	host := strings.ToLower(c.Hostname())
	if name, _, err := net.SplitHostPort(host); err == nil {
		return name
	}
	return host
}

// askedFor finds the help centre that answers a request.
func (s *server) askedFor(c *fiber.Ctx) (sites.Site, error) {
	found, err := s.sites.SiteAt(c.UserContext(), hostOf(c))
	if err == nil && !found.Answers(hostOf(c)) {
		return found, fiber.NewError(fiber.StatusMisdirectedRequest, "No help centre is served under this host.")
	}
	return found, err
}
