//! Where names stand, told when this is compiled.

/// Where a name stands among others. Only asked for constants.
#[expect(clippy::panic, reason = "a name that is not there is found when this is compiled")]
pub(super) const fn place_of(names: &[&str], name: &str) -> usize {
    let mut at = 0;
    while at < names.len() {
        if is_same(names[at].as_bytes(), name.as_bytes()) {
            return at;
        }
        at += 1;
    }
    panic!("there is no such name")
}

const fn is_same(one: &[u8], other: &[u8]) -> bool {
    if one.len() != other.len() {
        return false;
    }
    let mut at = 0;
    while at < one.len() {
        if one[at] != other[at] {
            return false;
        }
        at += 1;
    }
    true
}
