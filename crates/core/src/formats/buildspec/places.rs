//! Where `buildspec.yml` lies, and under which other names.

use crate::formats::Claim;
use crate::text::file_name;

/// The one path that is read when nothing else is said.
pub(super) const NAME: &str = "buildspec.yml";

/// What a path is. A project may name another file in whatever folder, which stands in no file: one of such a name is looked into, and none
/// is said to be misplaced.
pub(super) fn claim(path: &str) -> Claim {
    if path == NAME {
        return Claim::Reads;
    }
    let name = file_name(path);
    match name.strip_suffix(".yml").or_else(|| name.strip_suffix(".yaml")) {
        Some(stem) if stem.starts_with("buildspec") || stem.ends_with("buildspec") => Claim::Perhaps,
        _ => Claim::No,
    }
}

#[cfg(test)]
mod tests {
    use super::{Claim, claim};

    #[test]
    fn the_root_is_read_and_other_names_are_looked_into() {
        assert_eq!(claim("buildspec.yml"), Claim::Reads);
        for path in
            ["buildspec.yaml", "pier/buildspec.yml", "buildspec-site.yml", "ci/buildspec.test.yaml", "deploy-buildspec.yml"]
        {
            assert_eq!(claim(path), Claim::Perhaps, "{path}");
        }
        assert_eq!(claim("docs/build.yml"), Claim::No);
    }
}
