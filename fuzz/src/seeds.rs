//! The first inputs of every target: the examples of the rules, each where it is read.

use std::fs;
use std::path::Path;

use crate::made::{examples, files};

/// Which target reads a path.
fn target(path: &str) -> Option<&'static str> {
    let name = path.rsplit('/').next().unwrap_or(path);
    Some(match name {
        "dulk.toml" => "settings",
        ".gitlab-ci.yml" => "gitlab",
        ".travis.yml" => "travis",
        "buddy.yml" => "buddy",
        "buildspec.yml" => "buildspec",
        "amplify.yml" => "amplify",
        "cloudbuild.yaml" => "cloudbuild",
        _ if name.contains("Jenkinsfile") => "jenkins",
        _ if path.contains("/workflows/") => "workflow",
        _ if path.starts_with("infra/") => "codepipeline",
        _ => return None,
    })
}

fn put(folder: &Path, target: &str, number: usize, bytes: &[u8]) -> std::io::Result<()> {
    let folder = folder.join(target);
    fs::create_dir_all(&folder)?;
    fs::write(folder.join(format!("example-{number}")), bytes)
}

/// Writes them into a folder, each target's into one of its name.
///
/// # Errors
/// When the folder cannot be written.
pub fn write(folder: &Path) -> std::io::Result<()> {
    let clocks = ["0 5 * * *", "*/15 6-22 * * 1-5", "0 0 29 2 *", "5,10 4 1 JAN-MAR SUN"];
    let patterns = ["releases/**\nreleases/1/2", "v[0-9]+.*\nv1.2", "**/*.md\na/b.md", "feature/*?\nfeature/x"];
    for (number, text) in clocks.iter().enumerate() {
        put(folder, "clock", number, text.as_bytes())?;
    }
    for (number, text) in patterns.iter().enumerate() {
        put(folder, "patterns", number, text.as_bytes())?;
    }
    for (number, slip) in examples().iter().enumerate() {
        for (path, text) in files(slip) {
            let bytes = text.as_bytes();
            if let Some(target) = target(&path) {
                put(folder, target, number, bytes)?;
                put(folder, "yaml", number, bytes)?;
                put(folder, "mask", number, bytes)?;
            } else {
                // Both read what the first byte says; the wrong languages are inputs too.
                let chosen = [&[(path.len() % 16) as u8], bytes].concat();
                put(folder, "companions", number, &chosen)?;
                put(folder, "config", number, &chosen)?;
            }
            let scripts = text.lines().filter_map(|line| line.trim_start_matches([' ', '-']).strip_prefix("run: "));
            put(folder, "shell", number, scripts.collect::<Vec<_>>().join("\n").as_bytes())?;
            let conditions = text.lines().filter_map(|line| line.trim_start_matches([' ', '-']).strip_prefix("if: "));
            put(folder, "conditions", number, conditions.collect::<Vec<_>>().join(" && ").as_bytes())?;
        }
        // The examples themselves are what these bytes choose.
        put(folder, "repository", number, &[(number % 251) as u8, (number / 251) as u8, 0, 9, 7, 5, 3, 1, 255, 127, 64, 32, 16, 8, 4, 2])?;
    }
    Ok(())
}
