//! Where pipelines of `buddy.yml` lie, and where people put them by mistake.

use crate::formats::{Claim, below_the_root};

/// The file at the root.
pub(super) const NAME: &str = "buddy.yml";

/// The folder whose files are read as well.
pub(super) const FOLDER: &str = ".buddy";

/// Slips of the file.
const SLIPS: [&str; 4] = ["buddy.yaml", ".buddy.yml", ".buddy.yaml", "Buddy.yml"];

/// What a path is.
pub(super) fn claim(path: &str) -> Claim {
    let slip = |wanted: String, because: &str, moved: bool| Claim::Slip { wanted, because: because.to_owned(), moved };
    if path == NAME {
        return Claim::Reads;
    }
    if SLIPS.contains(&path) {
        return slip(NAME.to_owned(), "only buddy.yml at the root, and files in .buddy, are read", false);
    }
    if let Some(name) = path.strip_prefix(FOLDER).and_then(|rest| rest.strip_prefix('/')) {
        return match name.strip_suffix(".yaml") {
            _ if name.contains('/') => Claim::No,
            _ if name.ends_with(".yml") => Claim::Reads,
            Some(stem) => slip(format!("{FOLDER}/{stem}.yml"), "files in .buddy end in .yml", false),
            None => Claim::No,
        };
    }
    below_the_root(path, NAME, "only the root of the repository is looked at")
}

#[cfg(test)]
mod tests {
    use super::{Claim, claim};

    #[test]
    fn the_root_and_one_folder_are_read() {
        for path in ["buddy.yml", ".buddy/site.yml"] {
            assert_eq!(claim(path), Claim::Reads, "{path}");
        }
        for path in ["buddy.yaml", ".buddy.yml", ".buddy/site.yaml"] {
            assert!(matches!(claim(path), Claim::Slip { moved: false, .. }), "{path}");
        }
        assert!(matches!(claim("pier/buddy.yml"), Claim::Slip { moved: true, .. }));
        for path in [".buddy/parts/site.yml", ".buddy/notes.md", "docs/my-buddy.yml", "vendor/quay/buddy.yml"] {
            assert_eq!(claim(path), Claim::No, "{path}");
        }
    }
}
