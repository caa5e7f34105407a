//! Where `amplify.yml` lies, and where people put it by mistake.

use crate::formats::{Claim, below_the_root};

/// The one path that is read.
pub(super) const NAME: &str = "amplify.yml";

/// Slips of it.
const SLIPS: [&str; 3] = ["amplify.yaml", ".amplify.yml", "Amplify.yml"];

/// What a path is.
pub(super) fn claim(path: &str) -> Claim {
    if path == NAME {
        return Claim::Reads;
    }
    if SLIPS.contains(&path) {
        let because = "only amplify.yml at the root is read".to_owned();
        return Claim::Slip { wanted: NAME.to_owned(), because, moved: false };
    }
    below_the_root(path, NAME, "only the root of the repository is looked at, also for an app of a subfolder")
}

#[cfg(test)]
mod tests {
    use super::{Claim, claim};

    #[test]
    fn only_the_root_is_read() {
        assert_eq!(claim("amplify.yml"), Claim::Reads);
        assert!(matches!(claim("amplify.yaml"), Claim::Slip { moved: false, .. }));
        assert!(matches!(claim("apps/quay/amplify.yml"), Claim::Slip { moved: true, .. }));
        assert_eq!(claim("docs/amplify-notes.yml"), Claim::No);
    }
}
