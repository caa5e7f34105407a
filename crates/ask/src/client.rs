//! One question after the other, and everything that can go wrong with an answer.

use std::fmt::{self, Display, Formatter};
use std::time::{Duration, Instant};

use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, utf8_percent_encode};
use serde::de::DeserializeOwned;
use ureq::Agent;
use ureq::http::{HeaderMap, Uri};

use crate::place::{Place, is_loopback};

/// So large may one answer be, in bytes.
const ANSWER_LIMIT: u64 = 4 << 20;
/// So many answers may one list come in.
const PAGES_LIMIT: usize = 100;
/// So much may one list hold before another part of it is asked for.
const ITEMS_LIMIT: usize = 10_000;
/// So often may a question be sent on within the same host.
const SENT_ON_LIMIT: usize = 3;
/// So long may everything together take, as a multiple of what one answer may.
const ALL_TOGETHER: u32 = 12;

/// What stands for itself in an address (RFC 3986, `unreserved`).
const ESCAPED: &AsciiSet = &NON_ALPHANUMERIC.remove(b'-').remove(b'_').remove(b'.').remove(b'~');

/// A name as one part of an address.
pub fn segment(name: &str) -> String {
    utf8_percent_encode(name, ESCAPED).to_string()
}

/// A token, which is never shown.
pub struct Token(String);

impl Token {
    /// Takes it as it stands in a variable.
    ///
    /// # Errors
    /// In plain words, when it can be no token.
    pub fn new(text: &str) -> Result<Self, String> {
        let text = text.trim();
        if text.is_empty() {
            return Err("is empty".into());
        }
        // Anything else would be taken for another line of the question.
        if !text.bytes().all(|byte| byte.is_ascii_graphic()) {
            return Err("holds something that is in no token".into());
        }
        Ok(Self(text.to_owned()))
    }
}

impl fmt::Debug for Token {
    fn fmt(&self, formatter: &mut Formatter<'_>) -> fmt::Result {
        formatter.write_str("Token")
    }
}

/// Why something was not learnt.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Failure {
    /// Nobody answers: why, in words.
    NoAnswer(String),
    /// The token is missing, wrong or out of date.
    NotTaken {
        /// None was given.
        missing: bool,
    },
    /// The token may not ask this: the right that it wants, where that is known.
    NotAllowed(Option<&'static str>),
    /// There is no such thing, or it is not shown to this token.
    Absent,
    /// Too much was asked lately; in so many seconds it may be asked again, where that is said.
    TooOften(Option<u64>),
    /// The answer sends on to another host.
    SentElsewhere(String),
    /// The answer cannot be what it should be: why, in words.
    Senseless(String),
    /// It was not asked, for a reason that is told elsewhere: which.
    NotAsked(String),
}

impl Failure {
    /// The same, where a right is missing with its name.
    pub fn wanting(self, right: &'static str) -> Self {
        match self {
            Self::NotAllowed(None) => Self::NotAllowed(Some(right)),
            other => other,
        }
    }
}

impl Display for Failure {
    fn fmt(&self, formatter: &mut Formatter<'_>) -> fmt::Result {
        match self {
            Self::NoAnswer(why) => write!(formatter, "no answer: {why}"),
            Self::NotTaken { missing: true } => write!(formatter, "it is told only to who shows a token"),
            Self::NotTaken { missing: false } => write!(formatter, "the token is not taken: it is wrong, or out of date (401)"),
            Self::NotAllowed(None) => write!(formatter, "the token may not see this (403)"),
            Self::NotAllowed(Some(right)) => write!(formatter, "the token may not see this (403): it wants {right}"),
            Self::Absent => write!(formatter, "there is no such thing, or this token may not know of it (404)"),
            Self::TooOften(None) => write!(formatter, "the forge was asked too often lately and wants a pause"),
            Self::TooOften(Some(seconds)) => {
                write!(formatter, "the forge was asked too often lately and answers again in {seconds} s")
            }
            Self::SentElsewhere(host) => write!(formatter, "the answer sends on to {host}, where no token is taken to"),
            Self::Senseless(why) => write!(formatter, "the answer makes no sense: {why}"),
            Self::NotAsked(why) => formatter.write_str(why),
        }
    }
}

/// Asks one forge.
pub struct Client {
    agent: Agent,
    address: Uri,
    token: Option<Token>,
    headers: &'static [(&'static str, &'static str)],
    patience: Duration,
    /// When everything has taken too long.
    end: Instant,
}

/// A list that comes in several answers.
pub trait Page: DeserializeOwned {
    /// What it lists.
    type Item;
    /// So many an answer holds at most.
    const AT_ONCE: usize = 100;
    /// How many there are in all, where the answer says so.
    fn total(&self) -> Option<usize>;
    /// Those of this answer.
    fn items(self) -> Vec<Self::Item>;
}

impl<T: DeserializeOwned> Page for Vec<T> {
    type Item = T;
    fn total(&self) -> Option<usize> {
        None
    }
    fn items(self) -> Vec<T> {
        self
    }
}

impl Client {
    /// For a place; `patience` is how long one answer may take.
    pub fn new(place: &Place, token: Option<Token>, patience: Duration) -> Self {
        let agent = Agent::config_builder()
            .http_status_as_error(false)
            // Where a question is sent on to is looked at here.
            .max_redirects(0)
            .max_redirects_will_error(false)
            .timeout_global(Some(patience))
            .user_agent(concat!("dulk/", env!("CARGO_PKG_VERSION")))
            .max_response_header_size(64 << 10)
            .max_idle_connections(1);
        // Nobody stands between a machine and itself.
        let agent = if is_loopback(&place.address) { agent.proxy(None) } else { agent };
        Self {
            agent: agent.build().into(),
            address: place.address.clone(),
            token,
            headers: place.headers(),
            patience,
            end: Instant::now() + patience * ALL_TOGETHER,
        }
    }

    /// The answer to one question, by its path below the forge's address.
    ///
    /// # Errors
    /// With what went wrong.
    pub fn get<T: DeserializeOwned>(&self, path: &str) -> Result<T, Failure> {
        let (body, _) = self.fetch(&self.below(path)?)?;
        parse(&body)
    }

    /// All items of a list by its path, however many answers it comes in.
    ///
    /// # Errors
    /// With what went wrong; also when what comes is not as much as was promised.
    pub fn all<P: Page>(&self, path: &str) -> Result<Vec<P::Item>, Failure> {
        let mark = if path.contains('?') { '&' } else { '?' };
        let mut address = self.below(&format!("{path}{mark}per_page={}", P::AT_ONCE))?;
        let mut asked = vec![address.to_string()];
        let mut found = Vec::new();
        loop {
            let (body, headers) = self.fetch(&address)?;
            let page: P = parse(&body)?;
            let total = page.total();
            found.extend(page.items());
            let Some(next) = next_page(&headers) else {
                return match total.filter(|total| *total != found.len()) {
                    Some(total) => Err(Failure::Senseless(format!("it speaks of {total} and lists {}", found.len()))),
                    None => Ok(found),
                };
            };
            address = self.on_same_host(&next)?;
            let next = address.to_string();
            if asked.contains(&next) {
                return Err(Failure::Senseless("its parts follow each other in a circle".into()));
            }
            if asked.len() >= PAGES_LIMIT || found.len() > ITEMS_LIMIT {
                return Err(Failure::Senseless(format!("it goes on after {} parts and {} names", asked.len(), found.len())));
            }
            asked.push(next);
        }
    }

    fn below(&self, path: &str) -> Result<Uri, Failure> {
        let whole = format!("{}{path}", self.address.to_string().trim_end_matches('/'));
        whole.parse().map_err(|_| Failure::NotAsked("its name can stand in no address".into()))
    }

    /// An address that an answer names, where it is of the same host: no other is shown the token.
    fn on_same_host(&self, address: &str) -> Result<Uri, Failure> {
        let origin = origin(&self.address);
        let whole = if address.starts_with('/') && !address.starts_with("//") {
            format!("{origin}{address}")
        } else {
            address.to_owned()
        };
        let read: Uri = whole.parse().map_err(|_| Failure::Senseless("it sends on to what is no address".into()))?;
        if self::origin(&read) == origin {
            return Ok(read);
        }
        Err(Failure::SentElsewhere(self.without_token(read.host().unwrap_or("another place"))))
    }

    fn fetch(&self, address: &Uri) -> Result<(String, HeaderMap), Failure> {
        let mut address = address.clone();
        for _ in 0..=SENT_ON_LIMIT {
            let (status, headers, body) = self.once(&address)?;
            match status {
                200 => return Ok((body, headers)),
                301 | 302 | 307 | 308 => {
                    let to = header(&headers, "location").ok_or_else(|| Failure::Senseless("it sends on to nowhere".into()))?;
                    address = self.on_same_host(to)?;
                }
                other => return Err(refusal(other, &headers, self.token.is_none())),
            }
        }
        Err(Failure::Senseless("it is sent on and on".into()))
    }

    fn once(&self, address: &Uri) -> Result<(u16, HeaderMap, String), Failure> {
        if Instant::now() >= self.end {
            return Err(Failure::NoAnswer(format!(
                "everything together took more than {} s",
                (self.patience * ALL_TOGETHER).as_secs()
            )));
        }
        let mut question = self.agent.get(address);
        for (name, value) in self.headers {
            question = question.header(*name, *value);
        }
        if let Some(token) = &self.token {
            question = question.header("authorization", format!("Bearer {}", token.0));
        }
        let mut answer = question.call().map_err(|error| self.no_answer(&error))?;
        let body = answer.body_mut().with_config().limit(ANSWER_LIMIT).read_to_vec().map_err(|error| self.no_answer(&error))?;
        let body = String::from_utf8(body).map_err(|_| Failure::Senseless("it is no text".into()))?;
        if let Some(token) = &self.token
            && body.contains(&token.0)
        {
            return Err(Failure::Senseless("it holds the token itself".into()));
        }
        Ok((answer.status().as_u16(), answer.headers().clone(), body))
    }

    fn no_answer(&self, error: &ureq::Error) -> Failure {
        let host = self.address.host().unwrap_or_default();
        Failure::NoAnswer(match error {
            ureq::Error::Timeout(_) => format!("{host} took more than {} s", self.patience.as_secs_f32()),
            ureq::Error::HostNotFound => is_unknown(host),
            ureq::Error::ConnectionFailed => format!("{host} takes no connection"),
            ureq::Error::BodyExceedsLimit(limit) => return Failure::Senseless(format!("it has more than {} MiB", limit >> 20)),
            ureq::Error::Io(error) => match error.kind() {
                std::io::ErrorKind::ConnectionRefused => format!("{host} takes no connection"),
                std::io::ErrorKind::UnexpectedEof | std::io::ErrorKind::ConnectionReset => {
                    format!("{host} broke off in the middle")
                }
                // The system's own look-up has no kind of its own.
                _ if error.to_string().contains("lookup") => is_unknown(host),
                _ => self.without_token(&format!("{host}: {error}")),
            },
            ureq::Error::Rustls(_) | ureq::Error::Tls(_) => format!("{host} does not show that it is the one that it says"),
            other => self.without_token(&format!("{host}: {other}")),
        })
    }

    /// A text of somebody else's, in which the token does not stand.
    fn without_token(&self, text: &str) -> String {
        match &self.token {
            Some(token) => text.replace(&token.0, dulk_core::mask::MASK),
            None => text.to_owned(),
        }
    }
}

fn is_unknown(host: &str) -> String {
    format!("{host} is not known here: is there a network?")
}

/// Scheme, host and port.
fn origin(address: &Uri) -> String {
    let scheme = address.scheme_str().unwrap_or_default();
    let port = address.port_u16().unwrap_or(if scheme == "https" { 443 } else { 80 });
    format!("{scheme}://{}:{port}", address.host().unwrap_or_default().to_ascii_lowercase())
}

fn header<'h>(headers: &'h HeaderMap, name: &str) -> Option<&'h str> {
    headers.get(name).and_then(|value| value.to_str().ok())
}

fn parse<T: DeserializeOwned>(body: &str) -> Result<T, Failure> {
    serde_json::from_str(body).map_err(|error| match error.classify() {
        serde_json::error::Category::Eof => Failure::Senseless("it breaks off in the middle".into()),
        serde_json::error::Category::Syntax => Failure::Senseless("it is no JSON: is this the address of the interface?".into()),
        _ => Failure::Senseless("it has another form than the manual says".into()),
    })
}

/// Why there is no answer, by its number. Sources: the forges' pages "Troubleshooting the REST API", "Rate limits for the REST API" and "REST
/// API: status codes", 2026-11.
fn refusal(status: u16, headers: &HeaderMap, without_token: bool) -> Failure {
    let number = |name: &str| header(headers, name).and_then(|value| value.trim().parse::<u64>().ok());
    let none_left = number("x-ratelimit-remaining").or_else(|| number("ratelimit-remaining")) == Some(0);
    match status {
        429 => Failure::TooOften(number("retry-after")),
        403 if none_left || number("retry-after").is_some() => Failure::TooOften(number("retry-after")),
        401 => Failure::NotTaken { missing: without_token },
        403 => Failure::NotAllowed(None),
        404 if without_token => Failure::NotTaken { missing: true },
        404 => Failure::Absent,
        500.. => Failure::NoAnswer(format!("the forge has trouble of its own ({status})")),
        _ => Failure::Senseless(format!("its number is {status}")),
    }
}

/// Where a list goes on. Source: RFC 8288, "Web Linking".
fn next_page(headers: &HeaderMap) -> Option<String> {
    let links = headers.get_all("link").iter().filter_map(|value| value.to_str().ok()).flat_map(|value| value.split(','));
    links.into_iter().find_map(|link| {
        let (address, parameters) = link.trim().strip_prefix('<')?.split_once('>')?;
        let is_next = |parameter: &str| matches!(parameter.trim(), "rel=\"next\"" | "rel=next");
        parameters.split(';').any(is_next).then(|| address.to_owned())
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_token_is_one_word_and_never_shown() {
        let token = Token::new(" pier77sail\n").expect("a token");
        assert_eq!(format!("{token:?}"), "Token");
        assert!(Token::new("pier\r\nhost: x").is_err());
        assert!(Token::new(" ").is_err());
    }

    #[test]
    fn the_next_part_of_a_list_is_named_by_a_link() {
        let mut headers = HeaderMap::new();
        headers.append(
            "link",
            "<https://a.example/?page=1>; rel=\"prev\", <https://a.example/?page=3>; rel=\"next\"".parse().expect("a value"),
        );
        assert_eq!(next_page(&headers).as_deref(), Some("https://a.example/?page=3"));
        headers.clear();
        headers.append("link", "<https://a.example/?page=3>; rel=\"last\"".parse().expect("a value"));
        assert_eq!(next_page(&headers), None);
    }
}
