//! Whether an address leads away from a site, and where.

use crate::site::Address;

/// What is known by its scheme alone.
const SCHEMES: [&str; 3] = ["mailto:", "tel:", "sms:"];

/// The host to which an address leads away; of mail, phone and text messages the scheme. `None` for what stays on the site
/// of `base`, and for what leads nowhere. O(length).
pub fn away<'a>(base: &Address, to: &'a str) -> Option<&'a str> {
    if let Some(scheme) =
        SCHEMES.into_iter().find_map(|scheme| to.get(..scheme.len()).filter(|begin| begin.eq_ignore_ascii_case(scheme)))
    {
        return Some(scheme);
    }
    let rest = ["https://", "http://"].into_iter().find_map(|scheme| to.strip_prefix(scheme))?;
    let host = rest.split(['/', '?', '#']).next().unwrap_or(rest);
    // Who is let in does not tell where it is.
    let host = host.rsplit_once('@').map_or(host, |(_, host)| host);
    let own = base.as_url();
    let is_own = own.host_str().is_some_and(|name| match own.port() {
        Some(port) => host.strip_prefix(name).and_then(|rest| rest.strip_prefix(':')) == Some(&*port.to_string()),
        None => host == name,
    });
    let name = match host.rsplit_once(':') {
        Some((name, port)) if port.bytes().all(|digit| digit.is_ascii_digit()) => name,
        _ => host,
    };
    (!is_own && !name.is_empty()).then_some(name)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn what_leads_away_is_told_by_its_host() {
        let base = Address::parse("https://sky.example/").unwrap();
        for (to, host) in [
            ("https://sky.example/a?b#c", None),
            ("https://shop.sky.example/", Some("shop.sky.example")),
            ("https://optics.example:8080?x", Some("optics.example")),
            ("http://optics.example", Some("optics.example")),
            ("mailto:moon@sky.example", Some("mailto:")),
            ("tel:+441234", Some("tel:")),
            ("#place", None),
            ("javascript:void(0)", None),
        ] {
            assert_eq!(away(&base, to), host, "{to}");
        }
        let local = Address::parse("http://127.0.0.1:4871/").unwrap();
        assert_eq!(away(&local, "http://127.0.0.1:4871/a"), None);
        assert_eq!(away(&local, "http://127.0.0.1:4870/a"), Some("127.0.0.1"));
    }

    proptest! {
        /// What the parser of addresses says.
        #[test]
        fn the_host_is_that_of_the_address(
            scheme in "https?", host in "[a-z]{1,8}\\.example", port in prop::option::of(1024..9999u16), rest in "(/[a-z@:]{0,6})?(\\?[a-z/@]{0,4})?",
        ) {
            let port = port.map(|port| format!(":{port}")).unwrap_or_default();
            let to = Address::parse(&format!("{scheme}://{host}{port}{rest}")).unwrap();
            let base = Address::parse("https://sky.example/").unwrap();
            prop_assert_eq!(away(&base, to.as_str()), to.as_url().host_str());
        }
    }
}
