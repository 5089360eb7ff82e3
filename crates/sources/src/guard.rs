//! Which network addresses Strelm may speak to: public ones, and those that whoever runs it allowed.

use std::net::{IpAddr, Ipv6Addr};
use std::str::FromStr;
use std::sync::Arc;

use ipnet::IpNet;
use thiserror::Error;

/// Networks that are not for the public, after the special-purpose registries of RFC 6890 and its updates.
const NOT_PUBLIC: [&str; 27] = [
    "0.0.0.0/8",
    "10.0.0.0/8",
    "100.64.0.0/10",
    "127.0.0.0/8",
    "169.254.0.0/16",
    "172.16.0.0/12",
    "192.0.0.0/24",
    "192.0.2.0/24",
    "192.31.196.0/24",
    "192.52.193.0/24",
    "192.88.99.0/24",
    "192.168.0.0/16",
    "192.175.48.0/24",
    "198.18.0.0/15",
    "198.51.100.0/24",
    "203.0.113.0/24",
    "224.0.0.0/4",
    "240.0.0.0/4",
    "::/128",
    "::1/128",
    "64:ff9b:1::/48",
    "100::/64",
    "2001::/23",
    "2001:db8::/32",
    "fc00::/7",
    "fe80::/10",
    "ff00::/8",
];

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
    pub fn new(allowed: &[AllowedNetwork]) -> Self {
        Self {
            allowed: allowed.iter().flat_map(|network| network.0.iter().copied()).collect(),
            closed: NOT_PUBLIC.iter().filter_map(|net| net.parse().ok()).collect(),
        }
    }

    /// Public addresses and this machine's own.
    pub fn with_loopback() -> Self {
        Self::new(&"loopback".parse().map(|network| vec![network]).unwrap_or_default())
    }

    /// O(networks).
    pub fn permits(&self, address: IpAddr) -> bool {
        // An IPv4 address in IPv6 clothes is judged as what it is.
        let address = match address {
            IpAddr::V6(v6) => embedded(v6).unwrap_or(address),
            IpAddr::V4(_) => address,
        };
        let holds = |nets: &[IpNet]| nets.iter().any(|net| net.contains(&address));
        holds(&self.allowed) || !holds(&self.closed)
    }
}

fn embedded(address: Ipv6Addr) -> Option<IpAddr> {
    let octets = address.octets();
    let v4 = |at: usize| Some(IpAddr::from([octets[at], octets[at + 1], octets[at + 2], octets[at + 3]]));
    match address.segments() {
        // Mapped, and translated by NAT64 (RFC 6052).
        [0, 0, 0, 0, 0, 0xffff, ..] | [0x64, 0xff9b, 0, 0, 0, 0, ..] => v4(12),
        // 6to4 (RFC 3056).
        [0x2002, ..] => v4(2),
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
        for open in ["93.184.215.14", "2606:2800:21f:cb07:6820:80da:af6b:8b2c", "::ffff:93.184.215.14"] {
            assert!(permits(&rules, open), "{open}");
        }
        let closed = "127.0.0.1 127.8.9.1 0.0.0.0 10.1.2.3 172.31.0.1 192.168.1.1 169.254.169.254 100.64.0.1 ::1 :: \
            fe80::1 fd00::7 ff02::1 ::ffff:127.0.0.1 ::ffff:10.0.0.1 64:ff9b::7f00:1 2002:7f00:1:: 255.255.255.255";
        for closed in closed.split(' ') {
            assert!(!permits(&rules, closed), "{closed}");
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
