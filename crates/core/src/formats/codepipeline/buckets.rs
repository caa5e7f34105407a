//! Buckets that serve a site, and who may read them.
//!
//! After the pages "Hosting a static website using Amazon S3", "Setting permissions for website access" and "Blocking public access": a
//! policy must allow `s3:GetObject` on the objects, `bucket/*`; a bucket blocks such policies unless it is told not to.

use super::values::{Resource, Values};
use crate::carrier::NodeId;
use crate::model::{Closed, WebStore};
use crate::text::Place;

const KIND: &str = "AWS::S3::Bucket";
const POLICY: &str = "AWS::S3::BucketPolicy";
/// What may stand before a bucket and move its paths.
const BEFORE: &str = "AWS::CloudFront::Distribution";

/// The buckets of a template that serve a site.
pub(super) fn stores(values: &Values<'_>) -> Vec<WebStore> {
    let moved = values.of_kind(BEFORE).next().is_some();
    let store = |bucket: &Resource| {
        let node = bucket.properties?;
        let (key, website) = values.pair(node, "WebsiteConfiguration")?;
        let own_name = values.get(node, "BucketName").and_then(|name| values.text(name).or_else(|| values.written(name)));
        Some(WebStore {
            names: std::iter::once(bucket.name.value.clone()).chain(own_name.map(|name| name.value)).collect(),
            at: values.nodes.at(key),
            index: values.text_at(website, "IndexDocument"),
            error: values.text_at(website, "ErrorDocument"),
            closed: closed(values, bucket, node),
            at_root: !moved,
        })
    };
    values.of_kind(KIND).filter_map(store).collect()
}

/// A part of a policy that lets everybody read something.
struct Opens<'v> {
    /// The bucket that is named, with what stands behind its name.
    named: Option<(&'v Resource, String)>,
    at: Place,
}

/// What keeps visitors out, where somebody meant to let them in.
fn closed(values: &Values<'_>, bucket: &Resource, node: NodeId) -> Option<Closed> {
    let opens = opens(values, bucket);
    let said = |at: Place, because: &str, todo: &str, sure: bool| {
        let meant = opens.first().map(|one| one.at).filter(|meant| *meant != at);
        Some(Closed { at, because: because.to_owned(), todo: todo.to_owned(), meant, sure })
    };
    let of_objects = |one: &&Opens<'_>| {
        one.named.as_ref().is_none_or(|(named, rest)| named.name.value == bucket.name.value && rest.starts_with('/'))
    };
    if let (Some(first), None) = (opens.first(), opens.iter().find(of_objects)) {
        return match &first.named {
            Some((named, _)) if named.name.value != bucket.name.value => said(
                first.at,
                "the policy speaks of another bucket",
                "name the objects of this bucket, with `/*` behind its address",
                true,
            ),
            _ => said(
                first.at,
                "the policy speaks of the bucket, and not of the objects in it",
                "write `/*` behind the bucket's address",
                true,
            ),
        };
    }
    if opens.is_empty() {
        return None;
    }
    let Some(block) = values.get(node, "PublicAccessBlockConfiguration") else {
        return said(
            bucket.name.at,
            "a new bucket refuses policies that let everybody read, unless it is told not to",
            "add PublicAccessBlockConfiguration with BlockPublicPolicy: false and RestrictPublicBuckets: false",
            false,
        );
    };
    for key in ["BlockPublicPolicy", "RestrictPublicBuckets"] {
        if let Some(text) = values.text_at(block, key).filter(|text| text.value.eq_ignore_ascii_case("true")) {
            return said(text.inner(), "the bucket's own settings keep everybody out", "write false", true);
        }
    }
    None
}

/// The parts of the policies of a bucket that let everybody read.
fn opens<'v>(values: &'v Values<'_>, bucket: &Resource) -> Vec<Opens<'v>> {
    let mut found = Vec::new();
    for policy in values.of_kind(POLICY) {
        let Some(node) = policy.properties else { continue };
        let of_this = values.get(node, "Bucket").is_some_and(|named| is_bucket(values, named, bucket));
        let Some(document) = values.get(node, "PolicyDocument").filter(|_| of_this) else { continue };
        let Some(statements) = values.get(document, "Statement") else { continue };
        for statement in one_or_more(values, statements) {
            if !values.says(statement, "Effect", "Allow") || !for_everybody(values, statement) || !reads(values, statement) {
                continue;
            }
            for resource in values.get(statement, "Resource").map(|list| one_or_more(values, list)).unwrap_or_default() {
                found.push(Opens { named: values.referred(resource), at: values.nodes.at(resource) });
            }
        }
    }
    found
}

fn is_bucket(values: &Values<'_>, node: NodeId, bucket: &Resource) -> bool {
    let by_name = || {
        let own = bucket.properties.and_then(|properties| values.text_at(properties, "BucketName"));
        own.zip(values.text(node)).is_some_and(|(own, named)| own.value == named.value)
    };
    values.resource(node).is_some_and(|named| named.name.value == bucket.name.value) || by_name()
}

fn one_or_more(values: &Values<'_>, node: NodeId) -> Vec<NodeId> {
    let items = values.items(node);
    if items.is_empty() || !values.is_plain(node) { vec![node] } else { items }
}

fn for_everybody(values: &Values<'_>, statement: NodeId) -> bool {
    let Some(principal) = values.get(statement, "Principal") else { return false };
    let star = |node: NodeId| values.text(node).is_some_and(|text| text.value == "*");
    star(principal) || values.get(principal, "AWS").is_some_and(star)
}

fn reads(values: &Values<'_>, statement: NodeId) -> bool {
    let Some(action) = values.get(statement, "Action") else { return false };
    one_or_more(values, action)
        .into_iter()
        .filter_map(|one| values.text(one))
        .any(|text| matches!(text.value.as_str(), "s3:GetObject" | "s3:Get*" | "s3:*" | "*"))
}
