//! Infrastructure that is written as code, as the template that it makes: each value keeps its place in the program, and whatever is no
//! literal is a value that nobody knows.

use std::collections::HashMap;

use crate::carrier::{NodeId, Tree, TreeBuilder};
use crate::facts::constructs::{Line, Part, PartKind, lines};
use crate::knowledge::{ActionConstruct, Code, Construct};
use crate::text::Span;

/// Whether a text is a program that makes resources.
pub(super) fn is_code(text: &str) -> bool {
    let known = code();
    let imports = |line: &str| line.trim_start().starts_with("import") || line.contains("require(");
    text.lines().take(80).any(|line| imports(line) && known.imports.iter().any(|name| line.contains(name)))
}

fn code() -> &'static Code {
    &super::data().code
}

/// The template that a program makes, as far as that is written out.
pub(super) fn tree(text: &str) -> Tree {
    let lines = lines(text);
    let mut writer =
        Writer { text, nodes: TreeBuilder::default(), names: HashMap::new(), artifacts: HashMap::new(), resources: Vec::new() };
    lines.iter().for_each(|line| writer.note(line));
    lines.iter().for_each(|line| writer.resource(line, &lines));
    lines.iter().for_each(|line| writer.branch(line));
    writer.finish()
}

struct Writer<'t> {
    text: &'t str,
    nodes: TreeBuilder,
    /// The logical names of what is made, by the names that it has in the program.
    names: HashMap<String, String>,
    /// The names of artifacts, by those that they have in the program.
    artifacts: HashMap<String, (String, Span)>,
    resources: Vec<(NodeId, NodeId)>,
}

/// The last part of a dotted name.
fn last(name: &str) -> &str {
    name.rsplit('.').next().unwrap_or(name)
}

/// Names with their bytes and values.
type Entries = [(String, Span, Part)];

/// What a line makes.
struct Made<'l> {
    class: &'l str,
    /// Its own name, and where that stands.
    own: &'l str,
    at: Span,
    given: &'l Entries,
}

fn made(part: &Part) -> Option<Made<'_>> {
    let PartKind::Made { name, arguments } = &part.kind else { return None };
    let id = arguments.get(1)?;
    let PartKind::Text(own) = &id.kind else { return None };
    Some(Made { class: last(name), own, at: id.span, given: entries(arguments.get(2)) })
}

/// The names and values of a mapping; none of anything else.
fn entries(part: Option<&Part>) -> &Entries {
    match part.map(|part| &part.kind) {
        Some(PartKind::Map(entries)) => entries,
        _ => &[],
    }
}

fn construct_of(class: &str) -> Option<&'static Construct> {
    code().construct.iter().find(|known| known.names.contains(&class))
}

fn entry<'e>(given: &'e [(String, Span, Part)], name: &str) -> Option<&'e Part> {
    given.iter().find(|(known, ..)| known == name).map(|(.., part)| part)
}

impl Writer<'_> {
    /// Keeps the names under which something is spoken of later.
    fn note(&mut self, line: &Line) {
        let Some(kept) = &line.kept_as else { return };
        if let Some(made) = made(&line.call).filter(|made| construct_of(made.class).is_some()) {
            self.names.insert(kept.clone(), made.own.to_owned());
        }
        if let PartKind::Made { name, arguments } = &line.call.kind
            && last(name) == "Artifact"
        {
            let named = arguments.first().and_then(|first| match &first.kind {
                PartKind::Text(text) => Some((text.clone(), first.span)),
                _ => None,
            });
            self.artifacts.insert(kept.clone(), named.unwrap_or((kept.clone(), line.call.span)));
        }
    }

    fn scalar(&mut self, span: Span, value: &str) -> NodeId {
        self.nodes.scalar(self.text, span, value)
    }

    fn pair(&mut self, span: Span, key: &str, value: NodeId) -> (NodeId, NodeId) {
        (self.scalar(span, key), value)
    }

    /// A mapping whose keys all have one place.
    fn mapping(&mut self, span: Span, pairs: Vec<(&str, NodeId)>) -> NodeId {
        let pairs = pairs.into_iter().map(|(key, value)| self.pair(span, key, value)).collect();
        self.nodes.mapping(span, pairs)
    }

    /// A value that nobody knows before the program runs.
    fn unknown(&mut self, span: Span) -> NodeId {
        let nothing = self.scalar(span, "");
        self.mapping(span, vec![("Fn::Unknown", nothing)])
    }

    fn reference(&mut self, span: Span, name: &str) -> NodeId {
        let name = self.scalar(span, name);
        self.mapping(span, vec![("Ref", name)])
    }

    fn value(&mut self, part: &Part) -> NodeId {
        let span = part.span;
        match &part.kind {
            PartKind::Text(text) | PartKind::Word(text) => self.scalar(span, text),
            PartKind::List(items) => {
                let items = items.iter().map(|item| self.value(item)).collect();
                self.nodes.list(span, items)
            }
            PartKind::Map(entries) => {
                let pairs = entries
                    .iter()
                    .map(|(name, at, value)| {
                        let value = self.value(value);
                        self.pair(*at, name, value)
                    })
                    .collect();
                self.nodes.mapping(span, pairs)
            }
            PartKind::Name(name) => match self.names.get(name.split('.').next().unwrap_or_default()).cloned() {
                Some(own) => self.reference(span, &own),
                // A word of a closed set, such as `Platform.WEB`.
                None if name.contains('.')
                    && last(name).bytes().all(|byte| byte.is_ascii_uppercase() || byte.is_ascii_digit() || byte == b'_') =>
                {
                    let word = last(name);
                    let start = span.end.saturating_sub(u32::try_from(word.len()).unwrap_or(0));
                    self.scalar(Span { start, end: span.end }, word)
                }
                None => self.unknown(span),
            },
            PartKind::Made { name, arguments } => {
                let handed = code().calls.iter().any(|call| name == call || name.ends_with(&format!(".{call}")));
                match arguments.first().filter(|_| handed) {
                    Some(argument) => self.value(argument),
                    None => self.unknown(span),
                }
            }
            PartKind::Unknown => self.unknown(span),
        }
    }

    /// A resource for what a line makes.
    fn resource(&mut self, line: &Line, lines: &[Line]) {
        let Some(Made { class, own, at, given }) = made(&line.call) else { return };
        let Some(construct) = construct_of(class) else { return };
        let mut properties = Vec::new();
        for (name, span, part) in given {
            let Some(key) = construct.properties.get(name) else { continue };
            let value = match *key {
                "EnvironmentVariables" => self.variables(part),
                "Stages" => continue,
                _ => self.value(part),
            };
            properties.push(self.pair(*span, key, value));
        }
        match construct.kind {
            "AWS::CodePipeline::Pipeline" => {
                let stages = self.stages(line, given, lines);
                properties.push(self.pair(at, "Stages", stages));
            }
            "AWS::CodeBuild::Project" => properties = self.project(at, given, properties),
            "AWS::S3::Bucket" => properties = self.bucket(own, at, given),
            "AWS::Amplify::App" => {
                // The repository's token stands in what brings its files.
                let inner = entry(given, "sourceCodeProvider").and_then(|part| match &part.kind {
                    PartKind::Made { arguments, .. } => arguments.first(),
                    _ => None,
                });
                if let Some(PartKind::Map(entries)) = inner.map(|part| &part.kind)
                    && let Some((_, span, token)) = entries.iter().find(|(name, ..)| name == "oauthToken")
                {
                    let value = self.value(token);
                    properties.push(self.pair(*span, "OauthToken", value));
                }
            }
            _ => {}
        }
        self.add(own, at, construct.kind, properties);
    }

    fn add(&mut self, name: &str, at: Span, kind: &str, properties: Vec<(NodeId, NodeId)>) {
        let kind = self.scalar(at, kind);
        let properties = self.nodes.mapping(at, properties);
        let body = self.mapping(at, vec![("Type", kind), ("Properties", properties)]);
        let name = self.scalar(at, name);
        self.resources.push((name, body));
    }

    /// `{NAME: 'value'}` or `{NAME: {value, type}}` as a list of names and values.
    fn variables(&mut self, part: &Part) -> NodeId {
        let PartKind::Map(entries) = &part.kind else { return self.unknown(part.span) };
        let mut items = Vec::new();
        for (name, span, value) in entries {
            let named = self.scalar(*span, name);
            let mut pairs = vec![("Name", named)];
            match &value.kind {
                PartKind::Map(inner) => {
                    for (key, own) in [("value", "Value"), ("type", "Type")] {
                        if let Some(part) = entry(inner, key) {
                            pairs.push((own, self.value(part)));
                        }
                    }
                }
                _ => pairs.push(("Value", self.value(value))),
            }
            items.push(self.mapping(*span, pairs));
        }
        self.nodes.list(part.span, items)
    }

    /// The build's text stands in the source of a project, and its variables in the environment.
    fn project(&mut self, at: Span, given: &Entries, properties: Vec<(NodeId, NodeId)>) -> Vec<(NodeId, NodeId)> {
        let spec = entry(given, "buildSpec").map(|part| (part.span, self.value(part)));
        let source = spec.map(|(span, node)| vec![self.pair(span, "BuildSpec", node)]).unwrap_or_default();
        let source = self.nodes.mapping(at, source);
        let environment = entry(given, "environmentVariables").map(|part| self.variables(part));
        let environment = environment.map(|list| self.mapping(at, vec![("EnvironmentVariables", list)]));
        let mut found = properties;
        found.push(self.pair(at, "Source", source));
        if let Some(environment) = environment {
            found.push(self.pair(at, "Environment", environment));
        }
        found
    }

    /// A bucket's pages, and who may read them.
    fn bucket(&mut self, own: &str, at: Span, given: &Entries) -> Vec<(NodeId, NodeId)> {
        let mut found = Vec::new();
        if let Some(name) = entry(given, "bucketName") {
            let value = self.value(name);
            found.push(self.pair(name.span, "BucketName", value));
        }
        let index = entry(given, "websiteIndexDocument").map(|part| (part.span, self.value(part)));
        if let Some((span, index)) = index {
            let website = self.mapping(span, vec![("IndexDocument", index)]);
            found.push(self.pair(span, "WebsiteConfiguration", website));
        }
        if let Some(PartKind::Name(name)) = entry(given, "blockPublicAccess").map(|part| &part.kind) {
            let span = entry(given, "blockPublicAccess").map_or(at, |part| part.span);
            let closed = if last(name) == "BLOCK_ALL" { "true" } else { "false" };
            let (policy, all) = (self.scalar(span, closed), self.scalar(span, closed));
            let block = self.mapping(span, vec![("BlockPublicPolicy", policy), ("RestrictPublicBuckets", all)]);
            found.push(self.pair(span, "PublicAccessBlockConfiguration", block));
        }
        let open = entry(given, "publicReadAccess").filter(|part| matches!(&part.kind, PartKind::Word(word) if word == "true"));
        if let Some(open) = open {
            self.policy(own, open.span);
        }
        found
    }

    /// The policy by which everybody may read the objects of a bucket.
    fn policy(&mut self, bucket: &str, at: Span) {
        let words = [("Effect", "Allow"), ("Principal", "*"), ("Action", "s3:GetObject")];
        let mut pairs: Vec<(&str, NodeId)> = words.into_iter().map(|(key, word)| (key, self.scalar(at, word))).collect();
        let objects = self.scalar(at, &format!("${{{bucket}.Arn}}/*"));
        let objects = self.mapping(at, vec![("Fn::Sub", objects)]);
        pairs.push(("Resource", objects));
        let statement = self.mapping(at, pairs);
        let statements = self.nodes.list(at, vec![statement]);
        let document = self.mapping(at, vec![("Statement", statements)]);
        let named = self.reference(at, bucket);
        let properties = vec![self.pair(at, "Bucket", named), self.pair(at, "PolicyDocument", document)];
        self.add(&format!("{bucket} policy"), at, "AWS::S3::BucketPolicy", properties);
    }

    /// `app.addBranch('main', {…})`.
    fn branch(&mut self, line: &Line) {
        let PartKind::Made { name, arguments } = &line.call.kind else { return };
        let Some(owner) = name.strip_suffix(".addBranch").and_then(|owner| self.names.get(owner)).cloned() else { return };
        let Some(first) = arguments.first() else { return };
        let given = entries(arguments.get(1));
        let named = entry(given, "branchName").unwrap_or(first);
        let owner = self.reference(first.span, &owner);
        let branch = self.value(named);
        let mut properties = vec![self.pair(first.span, "AppId", owner), self.pair(named.span, "BranchName", branch)];
        for (key, own) in [("autoBuild", "EnableAutoBuild"), ("pullRequestPreview", "EnablePullRequestPreview")] {
            if let Some(part) = entry(given, key) {
                let value = self.value(part);
                properties.push(self.pair(part.span, own, value));
            }
        }
        self.add("branch", first.span, "AWS::Amplify::Branch", properties);
    }

    /// The stages that a pipeline is given, and those that are added to it.
    fn stages(&mut self, line: &Line, given: &Entries, lines: &[Line]) -> NodeId {
        let mut stages: Vec<&Entries> = Vec::new();
        let mut at = line.call.span;
        if let Some(part) = entry(given, "stages") {
            at = part.span;
            let PartKind::List(items) = &part.kind else { return self.unknown(part.span) };
            for item in items {
                let PartKind::Map(entries) = &item.kind else { return self.unknown(part.span) };
                stages.push(entries);
            }
        }
        let adds = |other: &Line| match (&other.call.kind, &line.kept_as) {
            (PartKind::Made { name, .. }, Some(kept)) => *name == format!("{kept}.addStage"),
            _ => false,
        };
        for added in lines.iter().filter(|other| adds(other)) {
            let PartKind::Made { arguments, .. } = &added.call.kind else { continue };
            match arguments.first().map(|part| &part.kind) {
                Some(PartKind::Map(entries)) => stages.push(entries),
                _ => return self.unknown(added.call.span),
            }
        }
        let items = stages.into_iter().map(|stage| self.stage(stage, at, lines)).collect();
        self.nodes.list(at, items)
    }

    fn stage(&mut self, stage: &Entries, at: Span, lines: &[Line]) -> NodeId {
        let mut pairs = Vec::new();
        if let Some(name) = entry(stage, "stageName") {
            pairs.push(("StageName", self.value(name), name.span));
        }
        let actions = match entry(stage, "actions").map(|part| (&part.kind, part.span)) {
            Some((PartKind::List(items), span)) => {
                let items = items.iter().map(|item| self.action(item, lines)).collect();
                self.nodes.list(span, items)
            }
            Some((_, span)) => self.unknown(span),
            None => self.nodes.list(at, Vec::new()),
        };
        let span = pairs.first().map_or(at, |(.., span)| *span);
        let mut found: Vec<(&str, NodeId)> = pairs.into_iter().map(|(_, node, _)| ("Name", node)).collect();
        found.push(("Actions", actions));
        self.mapping(span, found)
    }

    /// An action, made where it stands or kept under a name before.
    fn action(&mut self, item: &Part, lines: &[Line]) -> NodeId {
        let kept = match &item.kind {
            PartKind::Name(name) => lines.iter().find(|line| line.kept_as.as_ref() == Some(name)).map(|line| &line.call),
            _ => Some(item),
        };
        let Some(Part { kind: PartKind::Made { name, arguments }, span }) = kept else { return self.unknown(item.span) };
        let known = code().action.iter().find(|known| known.names.iter().any(|one| *one == last(name)));
        let given = entries(arguments.first());
        let (Some(known), Some(own)) = (known, entry(given, "actionName")) else { return self.unknown(*span) };
        let words = [("Category", known.category), ("Owner", "AWS"), ("Provider", known.provider), ("Version", "1")];
        let words = words.into_iter().map(|(key, word)| (key, self.scalar(own.span, word))).collect();
        let kind = self.mapping(own.span, words);
        let configuration = self.configuration(known, given, own.span);
        let inputs = self.artifacts_of(given, &["input", "extraInputs"], own.span);
        let outputs = self.artifacts_of(given, &["output", "outputs"], own.span);
        let named = self.value(own);
        let mut pairs = vec![
            ("Name", named),
            ("ActionTypeId", kind),
            ("Configuration", configuration),
            ("InputArtifacts", inputs),
            ("OutputArtifacts", outputs),
        ];
        if let Some(order) = entry(given, "runOrder") {
            pairs.push(("RunOrder", self.value(order)));
        }
        self.mapping(own.span, pairs)
    }

    fn configuration(&mut self, known: &'static ActionConstruct, given: &Entries, at: Span) -> NodeId {
        let mut pairs = Vec::new();
        for (name, key) in &known.configuration {
            let value = match (given.iter().find(|(own, ..)| own == name), known.usual.get(key)) {
                (Some((_, span, part)), _) => (*span, self.value(part)),
                (None, Some(usual)) => (at, self.scalar(at, usual)),
                // The library itself asks for what must be there.
                (None, None) if !matches!(key, &"ObjectKey" | &"DetectChanges") => (at, self.unknown(at)),
                (None, None) => continue,
            };
            pairs.push(self.pair(value.0, key, value.1));
        }
        self.nodes.mapping(at, pairs)
    }

    fn artifacts_of(&mut self, given: &Entries, keys: &[&str], at: Span) -> NodeId {
        let mut names: Vec<(String, Span)> = Vec::new();
        for part in keys.iter().filter_map(|key| entry(given, key)) {
            let one = |part: &Part| match &part.kind {
                PartKind::Name(name) => Some(name.clone()),
                _ => None,
            };
            let listed: Vec<&Part> = match &part.kind {
                PartKind::List(items) => items.iter().collect(),
                _ => vec![part],
            };
            for part in listed {
                if let Some((name, _)) = one(part).and_then(|name| self.artifacts.get(&name)) {
                    names.push((name.clone(), part.span));
                }
            }
        }
        let items = names
            .into_iter()
            .map(|(name, span)| {
                let name = self.scalar(span, &name);
                self.mapping(span, vec![("Name", name)])
            })
            .collect();
        self.nodes.list(at, items)
    }

    fn finish(mut self) -> Tree {
        let whole = Span::new(0, self.text.len());
        let resources = std::mem::take(&mut self.resources);
        let resources = self.nodes.mapping(whole, resources);
        let start = Span::new(0, 0);
        let key = self.scalar(start, "Resources");
        let root = self.nodes.mapping(whole, vec![(key, resources)]);
        self.nodes.finish(self.text, root)
    }
}
