//! Folders of files for programs that read them.

#![allow(clippy::unwrap_used)]

/// Files with their paths and texts.
pub fn folder(files: &[(&str, &str)]) -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    for (path, text) in files {
        let file = folder.path().join(path);
        std::fs::create_dir_all(file.parent().unwrap()).unwrap();
        std::fs::write(file, text).unwrap();
    }
    folder
}
