//! Makes sure that the folder of the built pages is there, so that the crate compiles before they
//! are built; the program then says what is missing.

fn main() {
    let pages = std::path::Path::new("../../web/dist");
    if let Err(error) = std::fs::create_dir_all(pages) {
        println!("cargo:warning=web/dist cannot be made: {error}");
    }
    println!("cargo:rerun-if-changed=../../web/dist");
}
