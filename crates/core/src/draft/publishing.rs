//! What puts the built folder online, as far as it is the same in all formats.

use super::{Plan, in_shell};
use crate::knowledge::{SignIn, WantedVariable};

/// What puts the built folder online.
#[derive(Debug)]
pub struct Publishing {
    /// The commands, from the root of a checkout.
    pub commands: Vec<String>,
    /// The secrets that they read.
    pub secrets: &'static [WantedVariable],
    /// Names and addresses that a person has to give.
    pub asked: Vec<&'static WantedVariable>,
    /// Those that the commands read.
    pub read: Vec<&'static WantedVariable>,
    /// The variables of secrets that have many lines hold paths of files.
    pub gives_files: bool,
    /// A step before the commands.
    pub sign_in: Option<&'static SignIn>,
}

impl Publishing {
    /// The commands, behind one that brings what they need.
    pub fn commands_behind(&self, packages: Option<String>) -> Vec<String> {
        packages.into_iter().chain(self.commands.iter().cloned()).collect()
    }
}

/// How a format reaches hosts.
#[derive(Debug, Default)]
pub struct Way {
    /// The format, by its id.
    pub format: &'static str,
    /// It can give a secret as a file, whose path the variable holds.
    pub gives_files: bool,
    /// A step by which its run signs in.
    pub sign_in: Option<&'static SignIn>,
}

impl Plan<'_> {
    /// What publishes.
    pub fn publishing(&self, way: &Way) -> Publishing {
        let is_signed_in = way.sign_in.is_some() || self.host.signed_in_by.contains(&way.format);
        let commands = if is_signed_in { self.host.signed_in_commands } else { self.host.commands };
        let read = |one: &&WantedVariable| !is_signed_in || commands.iter().any(|command| command.contains(one.name));
        let secrets = if is_signed_in { &[] } else { self.host.secrets };
        let variables = way.sign_in.map_or(&[][..], |sign_in| sign_in.variables).iter();
        Publishing {
            commands: self.commands(commands, secrets, way.gives_files),
            secrets,
            asked: variables.chain(self.host.variables.iter().filter(read)).collect(),
            read: self.host.variables.iter().filter(read).collect(),
            gives_files: way.gives_files,
            sign_in: way.sign_in,
        }
    }

    /// The commands of the catalog with what is known filled in. A secret of many lines is put into a file first, unless it is one.
    fn commands(&self, commands: &[&str], secrets: &[WantedVariable], gives_files: bool) -> Vec<String> {
        let put = |one: &WantedVariable| {
            [format!("{0}_FILE=\"$(mktemp)\"", one.name), format!("printf '%s\\n' \"${0}\" > \"${0}_FILE\"", one.name)]
        };
        let files = || secrets.iter().filter(|one| one.a_file);
        let fill = |command: &&str| {
            let command = command.replace("{folder}", &in_shell(&self.output)).replace("{branch}", &in_shell(&self.branch));
            files().fold(command, |command, one| {
                let path = if gives_files { format!("${}", one.name) } else { format!("${}_FILE", one.name) };
                command.replace(&format!("{{path:{}}}", one.name), &path)
            })
        };
        files().filter(|_| !gives_files).flat_map(put).chain(commands.iter().map(fill)).collect()
    }

    /// What brings the packages of a Debian system that publishing needs.
    pub fn system_packages(&self, sudo: bool) -> Option<String> {
        let (packages, sudo) = (self.host.packages, if sudo { "sudo " } else { "" });
        let install =
            || format!("{sudo}apt-get update && {sudo}apt-get install -y --no-install-recommends {}", packages.join(" "));
        (!packages.is_empty()).then(install)
    }
}
