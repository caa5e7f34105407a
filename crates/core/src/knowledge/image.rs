//! The parts of an image's name.

/// The name without its version, whether that is a tag or a digest.
pub fn bare_image(name: &str) -> &str {
    let name = name.split('@').next().unwrap_or(name);
    match name.rsplit_once(':') {
        // What stands before a slash is the port of a registry.
        Some((before, tag)) if !tag.contains('/') => before,
        _ => name,
    }
}

/// The name without the tag that it has anyway, so that two names of one image are the same text.
pub fn usual_image(name: &str) -> &str {
    name.strip_suffix(":latest").unwrap_or(name)
}

/// The name without what stands before those of the usual registry's own.
pub fn official_image(name: &str) -> &str {
    name.trim_start_matches("docker.io/").trim_start_matches("library/")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn versions_and_ports_are_told_apart() {
        for (name, bare) in [
            ("node:24", "node"),
            ("node", "node"),
            ("quay.example:5000/pier", "quay.example:5000/pier"),
            ("quay.example:5000/pier:${SHORT_SHA}", "quay.example:5000/pier"),
            ("pier@sha256:0a1b", "pier"),
        ] {
            assert_eq!(bare_image(name), bare, "{name}");
        }
        assert_eq!(usual_image("pier:latest"), usual_image("pier"));
        assert_eq!(official_image("docker.io/library/node:24"), "node:24");
    }
}
