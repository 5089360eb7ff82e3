//! Which network addresses Strelm may speak to: public ones, and those that whoever runs it allowed.

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};
use std::str::FromStr;
use std::sync::Arc;

use ipnet::IpNet;
use thiserror::Error;

/// Networks that are not for the public, what each is for, and an address in it: the IANA registries of special-purpose
/// addresses (RFC 6890 and its updates), multicast, and what of IPv6 is not given out.
const NOT_PUBLIC: [(&str, &str, &str); 35] = [
    ("0.0.0.0/8", "this network", "0.1.2.3"),
    ("10.0.0.0/8", "private use", "10.1.2.3"),
    ("100.64.0.0/10", "shared address space", "100.127.255.254"),
    ("127.0.0.0/8", "loopback", "127.8.9.1"),
    ("169.254.0.0/16", "link local", "169.254.169.254"),
    ("172.16.0.0/12", "private use", "172.31.0.1"),
    ("192.0.0.0/24", "protocol assignments", "192.0.0.170"),
    ("192.0.2.0/24", "documentation", "192.0.2.7"),
    ("192.31.196.0/24", "AS112", "192.31.196.1"),
    ("192.52.193.0/24", "automatic multicast tunneling", "192.52.193.1"),
    ("192.88.99.0/24", "6to4 relay, deprecated", "192.88.99.1"),
    ("192.168.0.0/16", "private use", "192.168.1.1"),
    ("192.175.48.0/24", "AS112 direct delegation", "192.175.48.6"),
    ("198.18.0.0/15", "benchmarking", "198.19.255.1"),
    ("198.51.100.0/24", "documentation", "198.51.100.9"),
    ("203.0.113.0/24", "documentation", "203.0.113.200"),
    ("224.0.0.0/4", "multicast", "239.1.2.3"),
    ("240.0.0.0/4", "reserved, and limited broadcast", "255.255.255.255"),
    ("::/96", "unspecified, loopback, and IPv4-compatible, deprecated", "::10.0.0.1"),
    ("::ffff:0:0:0/96", "IPv4-translated", "::ffff:0:10.0.0.1"),
    ("64:ff9b:1::/48", "local translation", "64:ff9b:1::a00:1"),
    ("100::/64", "discard only", "100::1"),
    ("100:0:0:1::/64", "dummy prefix", "100:0:0:1::9"),
    ("2001::/23", "protocol assignments, Teredo among them", "2001:0:4136:e378:8000:63bf:3fff:fdd2"),
    ("2001:db8::/32", "documentation", "2001:db8::5"),
    ("2620:4f:8000::/48", "AS112 direct delegation", "2620:4f:8000::6"),
    ("3fff::/20", "documentation", "3fff:fff::1"),
    ("5f00::/16", "segment routing", "5f00::1"),
    ("fc00::/7", "unique local", "fd12:3456::7"),
    ("fe80::/10", "link local", "fe80::1"),
    ("fec0::/10", "site local, deprecated", "fec0::1"),
    ("ff00::/8", "multicast", "ff02::1"),
    ("::/3", "not given out to networks of the public", "1fff::1"),
    ("4000::/2", "not given out", "4001::1"),
    ("8000::/1", "not given out", "9000::1"),
];

/// A text that names no network.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[error("“{0}” is not a network such as 10.1.0.0/16, an address such as 127.0.0.1, or the word loopback")]
pub struct NotANetwork(String);

/// A network that whoever runs Strelm allows.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AllowedNetwork(Vec<IpNet>);

impl FromStr for AllowedNetwork {
    type Err = NotANetwork;

    fn from_str(text: &str) -> Result<Self, NotANetwork> {
        let text = text.trim();
        if text == "loopback" {
            let nets = ["127.0.0.0/8", "::1/128"].iter().filter_map(|net| net.parse().ok());
            return Ok(Self(nets.collect()));
        }
        let net = text.parse().or_else(|_| text.parse::<IpAddr>().map(IpNet::from));
        net.map(|net| Self(vec![net])).map_err(|_| NotANetwork(text.to_owned()))
    }
}

/// The rules, cheap to copy.
#[derive(Debug, Clone)]
pub struct AddressRules {
    allowed: Arc<[IpNet]>,
    closed: Arc<[IpNet]>,
}

impl AddressRules {
    /// A guard that permits public addresses, and these networks.
    pub fn new(allowed: &[AllowedNetwork]) -> Self {
        Self {
            allowed: allowed.iter().flat_map(|network| network.0.iter().copied()).collect(),
            closed: NOT_PUBLIC.iter().filter_map(|(net, ..)| net.parse().ok()).collect(),
        }
    }

    /// Public addresses and this machine's own.
    pub fn with_loopback() -> Self {
        Self::new(&"loopback".parse().map(|network| vec![network]).unwrap_or_default())
    }

    /// O(networks).
    pub fn permits(&self, address: IpAddr) -> bool {
        let holds = |nets: &[IpNet], address: &IpAddr| nets.iter().any(|net| net.contains(address));
        let is_open = |address: IpAddr| holds(&self.allowed, &address) || !holds(&self.closed, &address);
        match address {
            IpAddr::V4(_) => is_open(address),
            IpAddr::V6(v6) => match embedded(v6) {
                // An IPv4 address in IPv6 clothes is judged as what it is.
                Some(Embedded::Whole(v4)) => is_open(v4.into()),
                Some(Embedded::Within(v4)) => is_open(address) && is_open(v4.into()),
                None => is_open(address),
            },
        }
    }
}

/// An IPv4 address in an IPv6 address.
enum Embedded {
    /// It is all that the address says.
    Whole(Ipv4Addr),
    /// It is where a tunnel of the address's own network ends.
    Within(Ipv4Addr),
}

fn embedded(address: Ipv6Addr) -> Option<Embedded> {
    let octets = address.octets();
    let v4 = |at: usize| Ipv4Addr::new(octets[at], octets[at + 1], octets[at + 2], octets[at + 3]);
    match address.segments() {
        // Mapped, and translated by NAT64 (RFC 6052).
        [0, 0, 0, 0, 0, 0xffff, ..] | [0x64, 0xff9b, 0, 0, 0, 0, ..] => Some(Embedded::Whole(v4(12))),
        // 6to4 (RFC 3056).
        [0x2002, ..] => Some(Embedded::Whole(v4(2))),
        // ISATAP (RFC 5214).
        [_, _, _, _, 0 | 0x0200, 0x5efe, ..] => Some(Embedded::Within(v4(12))),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn permits(rules: &AddressRules, address: &str) -> bool {
        rules.permits(address.parse().unwrap())
    }

    #[test]
    fn only_public_addresses_are_open_by_default() {
        let rules = AddressRules::new(&[]);
        for open in [
            "93.184.215.14",
            "2606:2800:21f:cb07:6820:80da:af6b:8b2c",
            "::ffff:93.184.215.14",
            "64:ff9b::93.184.215.14",
            "2606:2800:21f:cb07:0:5efe:93.184.215.14",
        ] {
            assert!(permits(&rules, open), "{open}");
        }
        let closed = "127.0.0.1 0.0.0.0 ::1 :: ::ffff:127.0.0.1 ::ffff:10.0.0.1 64:ff9b::7f00:1 2002:7f00:1:: \
            2606:2800:21f:cb07:0:5efe:10.0.0.1 2606:2800:21f:cb07:200:5efe:127.0.0.1";
        for closed in closed.split(' ') {
            assert!(!permits(&rules, closed), "{closed}");
        }
    }

    #[test]
    fn each_special_network_is_closed_from_its_first_address_to_its_last() {
        let rules = AddressRules::new(&[]);
        for (network, purpose, example) in NOT_PUBLIC {
            let net: IpNet = network.parse().unwrap_or_else(|_| panic!("{network}"));
            let example: IpAddr = example.parse().unwrap();
            assert!(net.contains(&example), "{example} is not in {network}");
            for address in [net.addr(), example, net.broadcast()] {
                assert!(!rules.permits(address), "{address}: {purpose}");
            }
            // And in IPv6 clothes.
            if let IpAddr::V4(v4) = example {
                let [a, b, c, d] = v4.octets();
                let dressed = [
                    format!("::ffff:{v4}"),
                    format!("::{v4}"),
                    format!("64:ff9b::{v4}"),
                    format!("2002:{a:02x}{b:02x}:{c:02x}{d:02x}::1"),
                    format!("2606:2800:21f:cb07::5efe:{v4}"),
                ];
                for address in dressed {
                    assert!(!permits(&rules, &address), "{address}: {purpose}");
                }
            }
        }
    }

    #[test]
    fn what_was_allowed_is_open() {
        let rules = AddressRules::new(&[
            "loopback".parse().unwrap(),
            "10.1.0.0/16".parse().unwrap(),
            "192.168.7.7".parse().unwrap(),
        ]);
        for open in ["127.0.0.1", "::1", "10.1.200.3", "192.168.7.7"] {
            assert!(permits(&rules, open), "{open}");
        }
        for closed in ["10.2.0.1", "192.168.7.8"] {
            assert!(!permits(&rules, closed), "{closed}");
        }
        assert!("everything".parse::<AllowedNetwork>().is_err());
    }
}
