//! The interface is compiled in; where it was not built yet, an empty folder stands in so that the rest compiles.

fn main() {
    pack_relocations();
    let dist = std::path::Path::new("../../web/dist");
    println!("cargo:rerun-if-changed={}", dist.display());
    println!("cargo:rerun-if-changed=build.rs");
    if !dist.exists()
        && let Err(error) = std::fs::create_dir_all(dist)
    {
        println!("cargo:warning=web/dist cannot be made: {error}");
    }
}

/// Addresses that are set when the program starts take a tenth of the memory of their plain list, two megabytes of it. glibc
/// reads them so from 2.36 on.
fn pack_relocations() {
    let target = |what: &str| std::env::var(format!("CARGO_CFG_TARGET_{what}")).unwrap_or_default();
    if target("OS") == "linux" && target("ENV") == "gnu" {
        println!("cargo:rustc-link-arg-bins=-Wl,-z,pack-relative-relocs");
    }
}
