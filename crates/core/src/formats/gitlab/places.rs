//! Where `.gitlab-ci.yml` lies, and where people put it by mistake.

use crate::formats::{Claim, below_the_root};

/// The one path that forges read.
pub(super) const NAME: &str = ".gitlab-ci.yml";

/// Slips of it.
const SLIPS: [&str; 5] = [".gitlab-ci.yaml", "gitlab-ci.yml", "gitlab-ci.yaml", ".gitlab.yml", ".gitlab-ci"];

/// What a path is.
pub(super) fn claim(path: &str) -> Claim {
    if path == NAME {
        return Claim::Reads;
    }
    if SLIPS.contains(&path) {
        let because = "the forge reads .gitlab-ci.yml at the root, with the point and this ending".to_owned();
        return Claim::Slip { wanted: NAME.to_owned(), because, moved: false };
    }
    below_the_root(path, NAME, "the forge looks at the root of the repository only")
}

#[cfg(test)]
mod tests {
    use super::{Claim, claim};

    #[test]
    fn only_the_root_is_read() {
        assert_eq!(claim(".gitlab-ci.yml"), Claim::Reads);
        for path in ["gitlab-ci.yml", ".gitlab-ci.yaml"] {
            assert!(matches!(claim(path), Claim::Slip { moved: false, .. }), "{path}");
        }
        assert!(matches!(claim("apps/web/.gitlab-ci.yml"), Claim::Slip { moved: true, .. }));
        for path in ["vendor/x/.gitlab-ci.yml", "web/node_modules/x/.gitlab-ci.yml", "a.yml", "docs/gitlab-ci.yml"] {
            assert_eq!(claim(path), Claim::No, "{path}");
        }
    }
}
