//! Where a `Jenkinsfile` lies.

use crate::formats::Claim;
use crate::text::file_name;

/// The path that is read when a project says nothing else.
pub(super) const NAME: &str = "Jenkinsfile";

/// What a path is. A project may name another file in whatever folder, which stands in no file: one of such a name is looked into, and none is
/// said to be misplaced.
pub(super) fn claim(path: &str) -> Claim {
    if path == NAME {
        return Claim::Reads;
    }
    let name = file_name(path);
    let named = name.as_bytes().windows(NAME.len()).any(|part| part.eq_ignore_ascii_case(NAME.as_bytes()));
    if named || name.ends_with(".jenkins") {
        return Claim::Perhaps;
    }
    Claim::No
}

#[cfg(test)]
mod tests {
    use super::{Claim, claim};

    #[test]
    fn the_root_is_read_and_other_names_are_looked_into() {
        assert_eq!(claim("Jenkinsfile"), Claim::Reads);
        for path in ["ci/Jenkinsfile", "Jenkinsfile.preview", "site.jenkinsfile", "ci/site.jenkins"] {
            assert_eq!(claim(path), Claim::Perhaps, "{path}");
        }
        assert_eq!(claim("jenkins/readme.md"), Claim::No);
    }
}
