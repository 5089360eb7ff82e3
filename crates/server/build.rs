//! The interface is compiled in; where it was not built yet, an empty folder stands in so that the rest compiles.

fn main() {
    let dist = std::path::Path::new("../../web/dist");
    println!("cargo:rerun-if-changed={}", dist.display());
    println!("cargo:rerun-if-changed=build.rs");
    if !dist.exists()
        && let Err(error) = std::fs::create_dir_all(dist)
    {
        println!("cargo:warning=web/dist cannot be made: {error}");
    }
}
