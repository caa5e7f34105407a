//! Where `.travis.yml` lies, and where people put it by mistake.

use crate::formats::{Claim, below_the_root};

/// The one path that is read.
pub(super) const NAME: &str = ".travis.yml";

/// Slips of it.
const SLIPS: [&str; 4] = ["travis.yml", ".travis.yaml", "travis.yaml", ".travis"];

/// What a path is.
pub(super) fn claim(path: &str) -> Claim {
    if path == NAME {
        return Claim::Reads;
    }
    if SLIPS.contains(&path) {
        let because = "only .travis.yml at the root is read, with the point and this ending".to_owned();
        return Claim::Slip { wanted: NAME.to_owned(), because, moved: false };
    }
    below_the_root(path, NAME, "only the root of the repository is looked at")
}

#[cfg(test)]
mod tests {
    use super::{Claim, claim};

    #[test]
    fn only_the_root_is_read() {
        assert_eq!(claim(".travis.yml"), Claim::Reads);
        for path in ["travis.yml", ".travis.yaml"] {
            assert!(matches!(claim(path), Claim::Slip { moved: false, .. }), "{path}");
        }
        assert!(matches!(claim("pier/web/.travis.yml"), Claim::Slip { moved: true, .. }));
        for path in ["vendor/quay/.travis.yml", "node_modules/quay/.travis.yml", "docs/travis.yml"] {
            assert_eq!(claim(path), Claim::No, "{path}");
        }
    }
}
