//! Where `buildspec.yml` lies, and under which other names.

use crate::formats::{Claim, below_the_root};

/// The one path that is read when nothing else is said.
pub(super) const NAME: &str = "buildspec.yml";

/// What a path is. A project may name another file: one of such a name is looked into.
pub(super) fn claim(path: &str) -> Claim {
    if path == NAME {
        return Claim::Reads;
    }
    if path == "buildspec.yaml" {
        let because = "only buildspec.yml at the root is read, unless the project names another file".to_owned();
        return Claim::Slip { wanted: NAME.to_owned(), because, moved: true };
    }
    let name = path.rsplit('/').next().unwrap_or(path);
    match name.strip_suffix(".yml").or_else(|| name.strip_suffix(".yaml")) {
        Some(stem) if name != NAME && (stem.starts_with("buildspec") || stem.ends_with("buildspec")) => {
            Claim::Perhaps { beside: None }
        }
        _ => below_the_root(path, NAME, "only the root is looked at, unless the project names another file"),
    }
}

#[cfg(test)]
mod tests {
    use super::{Claim, claim};

    #[test]
    fn the_root_is_read_and_other_names_are_looked_into() {
        assert_eq!(claim("buildspec.yml"), Claim::Reads);
        for path in ["buildspec-site.yml", "ci/buildspec.test.yaml", "deploy-buildspec.yml"] {
            assert_eq!(claim(path), Claim::Perhaps { beside: None }, "{path}");
        }
        for path in ["buildspec.yaml", "pier/buildspec.yml"] {
            assert!(matches!(claim(path), Claim::Slip { moved: true, .. }), "{path}");
        }
        assert_eq!(claim("docs/build.yml"), Claim::No);
    }
}
