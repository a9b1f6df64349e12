//! A small mail server that stands in for a real one in the demo: it takes every letter, sends none further, and keeps the
//! newest in memory to be looked at.

use mailin::response::{NO_MAILBOX, OK};
use mailin::{Action, Handler, Response, SessionBuilder};
use mailparse::MailHeaderMap;
use serde::Serialize;
use std::collections::VecDeque;
use std::io;
use std::net::{IpAddr, Ipv4Addr};
use std::sync::{Arc, Mutex, PoisonError};
use tokio::io::{AsyncBufReadExt, AsyncReadExt, AsyncWriteExt, BufReader};
use tokio::net::{TcpListener, TcpStream};
use utoipa::ToSchema;

/// A letter that came.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct KeptLetter {
    /// To whom.
    pub to: String,
    /// What it is about.
    pub subject: String,
    /// What it says.
    pub text: String,
}

/// So many letters are kept, and no longer one than that is taken.
const MOST_LETTERS: usize = 100;
const MOST_BYTES: usize = 256 * 1024;
/// No line of a letter is longer (RFC 5321 asks for 1000).
const MOST_LINE: u64 = 8 * 1024;

/// What came, the newest first.
#[derive(Debug, Clone, Default)]
pub struct Mailbox(Arc<Mutex<VecDeque<KeptLetter>>>);

impl Mailbox {
    /// The letters, the newest first.
    #[must_use]
    pub fn letters(&self) -> Vec<KeptLetter> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).iter().cloned().collect()
    }

    fn keep(&self, letter: KeptLetter) {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        all.push_front(letter);
        all.truncate(MOST_LETTERS);
    }

    /// Takes letters on the loopback, from now on; gives the port.
    ///
    /// # Errors
    /// When no port can be had.
    pub async fn open(&self) -> io::Result<u16> {
        let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, 0)).await?;
        let (port, mailbox) = (listener.local_addr()?.port(), self.clone());
        tokio::spawn(async move {
            while let Ok((stream, _)) = listener.accept().await {
                let mailbox = mailbox.clone();
                // A sender that breaks off leaves no letter.
                tokio::spawn(async move { take(stream, mailbox).await.ok() });
            }
        });
        Ok(port)
    }
}

struct Taking {
    mailbox: Mailbox,
    to: String,
    letter: Vec<u8>,
}

impl Handler for Taking {
    fn rcpt(&mut self, to: &str) -> Response {
        to.clone_into(&mut self.to);
        OK
    }

    fn data(&mut self, line: &[u8]) -> io::Result<()> {
        if self.letter.len() + line.len() > MOST_BYTES {
            return Err(io::ErrorKind::FileTooLarge.into());
        }
        self.letter.extend_from_slice(line);
        Ok(())
    }

    fn data_end(&mut self) -> Response {
        let letter = std::mem::take(&mut self.letter);
        let Ok(parsed) = mailparse::parse_mail(&letter) else { return NO_MAILBOX };
        let subject = parsed.headers.get_first_value("Subject").unwrap_or_default();
        let text = parsed.get_body().unwrap_or_default().replace("\r\n", "\n").trim().to_owned();
        self.mailbox.keep(KeptLetter { to: std::mem::take(&mut self.to), subject, text });
        OK
    }
}

async fn take(stream: TcpStream, mailbox: Mailbox) -> io::Result<()> {
    let (read, mut write) = stream.into_split();
    let mut read = BufReader::new(read);
    let taking = Taking { mailbox, to: String::new(), letter: Vec::new() };
    let mut session = SessionBuilder::new("mailbox").build(IpAddr::V4(Ipv4Addr::LOCALHOST), taking);
    write.write_all(&session.greeting().buffer()?).await?;
    loop {
        let mut line = Vec::new();
        if (&mut read).take(MOST_LINE).read_until(b'\n', &mut line).await? == 0 {
            return Ok(());
        }
        let answer = session.process(&line);
        match answer.action {
            Action::NoReply => {}
            Action::Close => return write.write_all(&answer.buffer()?).await,
            _ => write.write_all(&answer.buffer()?).await?,
        }
    }
}
