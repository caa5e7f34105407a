//! A small stand-in for a forge, on this machine's own address alone: for the demo, and for tests of what goes wrong with answers.

use std::collections::BTreeMap;
use std::io::{self, Write};
use std::net::SocketAddr;
use std::sync::Arc;
use std::thread::JoinHandle;
use std::time::Duration;

use tiny_http::{Header, Request, Response, Server};

/// What it answers to the question for one path, whatever stands behind its question mark.
#[derive(Clone, Debug)]
pub enum Answer {
    /// A text, with the documented number and headers.
    Text {
        /// The number.
        status: u16,
        /// The text.
        text: String,
        /// Names and values.
        headers: Vec<(String, String)>,
    },
    /// As many bytes as are wanted, all of them `[`.
    Huge(usize),
    /// It takes so long before it says anything.
    Slow(Duration),
    /// It promises more than it sends, and breaks off.
    Cut,
    /// It says again what token it was shown.
    Echo,
}

impl Answer {
    /// A text of a good answer.
    pub fn text(text: impl Into<String>) -> Self {
        Self::with(200, text, &[])
    }

    /// A text with a number and headers.
    pub fn with(status: u16, text: impl Into<String>, headers: &[(&str, &str)]) -> Self {
        let headers = headers.iter().map(|(name, value)| ((*name).to_owned(), (*value).to_owned())).collect();
        Self::Text { status, text: text.into(), headers }
    }
}

/// A stand-in that runs until it is dropped.
pub struct StandIn {
    server: Arc<Server>,
    worker: Option<JoinHandle<()>>,
}

impl StandIn {
    /// Starts one that knows some paths, each with its question mark or without; what it does not know is not there. With a token, it
    /// answers nobody else.
    ///
    /// # Errors
    /// When no port can be had.
    pub fn start(answers: BTreeMap<String, Answer>, token: Option<String>) -> io::Result<Self> {
        let server = Arc::new(Server::http(("127.0.0.1", 0)).map_err(|error| io::Error::other(error.to_string()))?);
        let own = server.clone();
        let worker = std::thread::spawn(move || {
            for request in own.incoming_requests() {
                // Whoever asked may be gone already.
                let _ = answer(request, &answers, token.as_deref());
            }
        });
        Ok(Self { server, worker: Some(worker) })
    }

    /// Where it listens.
    pub fn address(&self) -> Option<SocketAddr> {
        self.server.server_addr().to_ip()
    }
}

impl Drop for StandIn {
    fn drop(&mut self) {
        self.server.unblock();
        if let Some(worker) = self.worker.take() {
            let _ = worker.join();
        }
    }
}

fn answer(request: Request, answers: &BTreeMap<String, Answer>, token: Option<&str>) -> io::Result<()> {
    let shown =
        request.headers().iter().find(|header| header.field.equiv("authorization")).map(|header| header.value.to_string());
    if token.is_some_and(|token| shown.as_deref() != Some(&format!("Bearer {token}"))) {
        return say(request, 401, "{\"message\": \"Bad credentials\"}", &[]);
    }
    let path = request.url().to_owned();
    let known = answers.get(&path).or_else(|| answers.get(path.split('?').next().unwrap_or_default()));
    match known {
        None => say(request, 404, "{\"message\": \"Not Found\"}", &[]),
        Some(Answer::Text { status, text, headers }) => say(request, *status, text, headers),
        Some(Answer::Huge(bytes)) => say(request, 200, &"[".repeat(*bytes), &[]),
        Some(Answer::Slow(time)) => {
            std::thread::sleep(*time);
            say(request, 200, "{}", &[])
        }
        Some(Answer::Cut) => {
            let mut writer = request.into_writer();
            writer.write_all(b"HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: 4000\r\n\r\n{\"default_")?;
            writer.flush()
        }
        Some(Answer::Echo) => say(request, 200, &format!("{{\"message\": {:?}}}", shown.unwrap_or_default()), &[]),
    }
}

fn say(request: Request, status: u16, text: &str, headers: &[(String, String)]) -> io::Result<()> {
    let mut response = Response::from_string(text).with_status_code(status);
    for (name, value) in headers {
        if let Ok(header) = Header::from_bytes(name.as_bytes(), value.as_bytes()) {
            response.add_header(header);
        }
    }
    request.respond(response)
}
