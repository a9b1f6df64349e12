//! The gate: every write is one command, decided here and nowhere else.
//!
//! A decision is a pure function of what the command rests on, who gives it, and the time. The store
//! reads those facts inside the write transaction, asks here, and writes what it is told before the
//! transaction ends: between the reading and the writing there is nobody else.
//!
//! To add a kind of write: a variant of [`Command`], a file here that decides it, and a loader of its
//! facts in the store.

mod accounts;
mod brought;
mod cards;
mod changes;
mod drafts;
mod entries;
mod harvest;
mod moves;
mod permit;
mod pictures;
mod timers;

mod clock;

pub use accounts::{AccountFacts, AccountWish, Claimed, MOST_ACCOUNTS, decides_over};
pub use brought::{brought_card, brought_entry, brought_under};
pub use cards::{CardFacts, CardWrite, MOST_CARDS, Named, NamedDrum};
pub use clock::likely;
pub use entries::NewEntry;
pub use harvest::PickedCard;
pub use moves::{SourceFacts, moved_from, moved_plantings};
pub use pictures::{MOST_PICTURE_BYTES, MOST_PICTURES, PictureFacts};
pub use timers::{MOST_TIMERS, TimerFacts};

use crate::calendar::Calendar;
use crate::crop::Planting;
use crate::fact::card::{Card, Role};
use crate::fact::{
    Account, Actor, ChangeRun, Draft, Entry, Holds, LoggedEntry, NewCard, NewPicture, Picture, Planted, StoredRun,
    Timeline, Timer, Visit, WaitFor,
};
use crate::message::Message;
use crate::mixing::FeedFacts;
use crate::projection::Known;
use crate::quantity::Name;
use crate::refusal::Refusal;
use crate::refuse;
use crate::situation::Situation;
use crate::system::System;
use jiff::tz::TimeZone;
use jiff::{Timestamp, Zoned};
use uuid::Uuid;

/// A write that is asked for.
#[derive(Debug, Clone, PartialEq)]
pub enum Command {
    /// An entry of the log, or an amendment of one.
    Add(Uuid, Box<NewEntry>),
    /// A visit half done is kept, on top of the version that the writer saw.
    SaveDraft {
        /// At which system.
        system: Uuid,
        /// The id that the entry will have.
        id: Uuid,
        /// The version that the writer saw, 0 for a new one.
        version: i64,
        /// As far as it has come.
        visit: Box<Visit>,
    },
    /// A visit half done is put away, as it was seen.
    DropDraft(Seen),
    /// A change under way is kept, on top of the version that the writer saw.
    SaveChange {
        /// At which system.
        system: Uuid,
        /// The id that the entry will have.
        id: Uuid,
        /// The version that the writer saw, 0 for a new one.
        version: i64,
        /// As far as it has come.
        run: Box<ChangeRun>,
    },
    /// A change under way ends in an entry.
    FinishChange {
        /// At which system.
        system: Uuid,
        /// Its id.
        id: Uuid,
        /// When it was done; now when absent.
        at: Option<Timestamp>,
    },
    /// A change under way is given up, as it was seen.
    DropChange(Seen),
    /// A card is made.
    MakeCard(Box<NewCard>),
    /// A card is edited, put away or taken out again, on top of the version that the editor saw.
    EditCard {
        /// The card that is edited.
        id: Uuid,
        /// The version that the editor saw.
        version: i64,
        /// What it should say; as it does when absent.
        card: Option<Box<Card>>,
        /// Whether it is put away; as it is when absent.
        archived: Option<bool>,
        /// From when that holds; from today when absent.
        holds: Option<Holds>,
    },
    /// A timer is started.
    StartTimer {
        /// Made by the client.
        id: Uuid,
        /// At which system.
        system: Option<Uuid>,
        /// For what.
        what: WaitFor,
        /// In a few words.
        label: Name,
        /// How long.
        minutes: u32,
    },
    /// A timer is put away.
    DismissTimer(Uuid),
    /// A picture is kept, at a system.
    KeepPicture(Uuid, Box<NewPicture>),
    /// A picture is erased.
    ErasePicture {
        /// At which system.
        system: Uuid,
        /// Which.
        id: Uuid,
    },
    /// An account is made.
    MakeAccount {
        /// Made by the client.
        id: Uuid,
        /// What it should be.
        wish: AccountWish,
    },
    /// An account is edited or ended, on top of the version that the editor saw.
    EditAccount {
        /// Which.
        id: Uuid,
        /// The version that the editor saw.
        version: i64,
        /// What it should be.
        wish: AccountWish,
    },
}

/// What somebody saw who takes something half done away: what was saved on top of it meanwhile is not
/// taken away unseen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Seen {
    /// At which system.
    pub system: Uuid,
    /// The id that the entry would have had.
    pub id: Uuid,
    /// The version that was seen.
    pub version: i64,
}

/// What is known of a person while a command is decided.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PersonNow {
    /// What they may do.
    pub role: Role,
    /// The place that they belong to.
    pub place: Uuid,
    /// Whether they were put away.
    pub archived: bool,
}

/// What a command at a system rests on.
#[derive(Debug, Clone)]
pub struct SystemFacts {
    /// Its id.
    pub id: Uuid,
    /// Whether it was put away.
    pub archived: bool,
    /// The system, by when it was how.
    pub history: Timeline<System>,
    /// What grew in it, by when.
    pub planted: Vec<Timeline<Planting>>,
    /// Its place.
    pub place: Uuid,
    /// The place's zone.
    pub zone: TimeZone,
    /// The place's open days.
    pub calendar: Calendar,
    /// What its log comes to.
    pub known: Known,
    /// The entry with the command's id, wherever it stands.
    pub entry: Option<LoggedEntry>,
    /// The entry that the command would amend, where it is of this system.
    pub amended: Option<LoggedEntry>,
    /// The newest amendment of that one.
    pub newest: Option<LoggedEntry>,
    /// The draft with the command's id, whoever's it is.
    pub closing: Option<Draft>,
    /// The actor's draft at the system.
    pub draft: Option<Draft>,
    /// The change under way at the system.
    pub run: Option<StoredRun>,
    /// Whether a visit or a change with the command's id was put away half done.
    pub put_away: bool,
    /// The plantings and the other systems that are there, of those that the command names.
    pub named: Vec<Uuid>,
    /// The plantings that the command, or the entry that it amends, says were picked, moved, cut or lost; and those that
    /// they became.
    pub picked: Vec<PickedCard>,
    /// The systems that plants came from.
    pub sources: Vec<SourceFacts>,
    /// Ids of cards that are there, of those that plants would become.
    pub ids_taken: Vec<Uuid>,
    /// How many cards there are.
    pub cards: usize,
}

impl SystemFacts {
    /// Works on the situation that these facts make.
    fn situation<T>(&self, actor: &Actor, now: &Zoned, work: impl FnOnce(&Situation<'_>) -> T) -> T {
        let on = now.date();
        let plantings: Vec<Planting> = Planted(&self.planted).at(now.timestamp(), on).cloned().collect();
        work(&Situation {
            system: self.history.now(),
            history: &self.history,
            plantings: &plantings,
            planted: Planted(&self.planted),
            planting_ids: &[],
            known: &self.known,
            calendar: &self.calendar,
            now,
            calibrated: None,
            feed: FeedFacts::default(),
            touched: &[],
            actor,
        })
    }

    /// What it is closed off for, where it is.
    fn closed_off(&self) -> Option<Message> {
        self.known.happened.closed_off.and(self.known.cases.suspect())
    }

    /// Refuses what would be recorded at a system that was put away, or by someone who may not.
    fn open_to(&self, actor: &Actor) -> Result<Uuid, Refusal> {
        let person = actor.recorder()?;
        actor.of_place(self.place)?;
        if self.archived { Err(refuse!("system_put_away")) } else { Ok(person) }
    }
}

/// What a command rests on.
#[derive(Debug, Clone)]
pub enum Facts {
    /// For what happens at a system.
    System(Box<SystemFacts>),
    /// For a card.
    Card(Box<CardFacts>),
    /// For a timer.
    Timer(TimerFacts),
    /// For a picture.
    Picture(Box<SystemFacts>, PictureFacts),
    /// For an account.
    Account(AccountFacts),
}

/// What is to be written.
#[derive(Debug, Clone, PartialEq)]
pub enum Decision {
    /// It is there already, just so: nothing is written, and the first answer is given again.
    Already,
    /// An entry is added; a draft or a change with its id is over.
    Append(Box<Entry>),
    /// The same, and with it the cards that it turns: what was picked whole is done.
    AppendAndTurn(Box<Entry>, Vec<CardWrite>),
    /// A draft takes the place of the one that was there.
    KeepDraft(Box<Draft>),
    /// A change under way takes the place of the one that was there.
    KeepRun(Box<StoredRun>),
    /// A card is written.
    KeepCard(Box<CardWrite>),
    /// A timer is started in the place of these.
    KeepTimer(Box<Timer>, Vec<Uuid>),
    /// A picture is kept.
    KeepPicture(Box<Picture>),
    /// An account is written.
    KeepAccount(Box<Account>),
    /// What the command names is taken away, if it is there.
    Remove,
}

/// What stands in the way, where two writers met.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Meets {
    /// Another edit of the card.
    Card,
    /// Another amendment of the entry.
    Amendment,
    /// Another save of the visit.
    Draft,
    /// Another save of the change.
    Run,
    /// Another edit of the account.
    Account,
}

/// Why a command was not carried out.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum Refused {
    /// It may not be.
    #[error(transparent)]
    Refusal(#[from] Refusal),
    /// What it is about is not there.
    #[error("there is no such {0}")]
    NotFound(&'static str),
    /// Its id belongs to something else.
    #[error("the id belongs to something else already")]
    IdTaken,
    /// Somebody else was faster; what stands is in the facts.
    #[error("somebody else was faster")]
    Conflict(Meets),
}

/// The actor as they are at this moment: a person who was put away acts no more, and a role that was
/// changed holds at once.
///
/// # Errors
/// A refusal for a person who is not there or was put away.
pub fn present(actor: &Actor, person: Option<&PersonNow>) -> Result<Actor, Refusal> {
    match (actor.person, person) {
        (None, _) => Ok(actor.clone()),
        (Some(_), None) => Err(refuse!("not_of_this_place").at(Refusal::ACTOR)),
        (Some(_), Some(now)) if now.archived => Err(refuse!("person_put_away").at(Refusal::ACTOR)),
        (Some(_), Some(now)) => Ok(Actor { role: now.role, place: Some(now.place), ..actor.clone() }),
    }
}

/// Decides a command.
///
/// `person` is what stands of the actor's person now. A request that was carried out before is told so
/// first of all: its answer does not change with the clock or with who was put away since.
///
/// # Errors
/// Why it is not carried out.
pub fn decide(
    command: &Command,
    facts: &Facts,
    actor: &Actor,
    person: Option<&PersonNow>,
    now: Timestamp,
) -> Result<Decision, Refused> {
    match ruled(command, facts, actor, person, now) {
        Ok(Decision::Already) => Ok(Decision::Already),
        decided => match (permit::permitted(command, facts, actor, person), decided) {
            // Of what a child may not do, the rule says it better.
            (Err(_), Err(Refused::Refusal(rule))) if rule.code.starts_with("child_") => Err(rule.into()),
            (permitted, decided) => permitted.map_err(Refused::from).and(decided),
        },
    }
}

/// What the rules say of a command, whoever gives it.
fn ruled(
    command: &Command,
    facts: &Facts,
    actor: &Actor,
    person: Option<&PersonNow>,
    now: Timestamp,
) -> Result<Decision, Refused> {
    match (command, facts) {
        (Command::Add(_, new), Facts::System(at)) => entries::add(new, at, actor, person, now),
        (Command::SaveDraft { id, version, visit, .. }, Facts::System(at)) => {
            drafts::save(*id, *version, visit, at, &present(actor, person)?, now)
        }
        (Command::DropDraft(seen), Facts::System(at)) => drafts::drop(*seen, at, &present(actor, person)?),
        (Command::SaveChange { id, version, run, .. }, Facts::System(at)) => {
            changes::save(*id, *version, run, at, &present(actor, person)?, now)
        }
        (Command::FinishChange { id, at: ended, .. }, Facts::System(at)) => {
            changes::finish(*id, *ended, at, actor, person, now)
        }
        (Command::DropChange(seen), Facts::System(at)) => changes::drop(*seen, at, &present(actor, person)?),
        (Command::MakeCard(new), Facts::Card(facts)) => cards::make(new, facts, actor, person, now),
        (Command::EditCard { version, card, archived, holds, .. }, Facts::Card(facts)) => {
            let wish = cards::Wish { card: card.as_deref(), archived: *archived, holds: *holds };
            cards::edit(*version, &wish, facts, &present(actor, person)?, now)
        }
        (Command::StartTimer { .. } | Command::DismissTimer(_), Facts::Timer(facts)) => {
            timers::decide(command, facts, now)
        }
        (Command::KeepPicture(_, new), Facts::Picture(at, facts)) => pictures::keep(new, at, facts, actor, person, now),
        (Command::ErasePicture { .. }, Facts::Picture(at, facts)) => pictures::drop(at, facts, actor, person),
        (Command::MakeAccount { id, wish }, Facts::Account(facts)) => accounts::make(*id, wish, facts, actor),
        (Command::EditAccount { version, wish, .. }, Facts::Account(facts)) => {
            accounts::edit(*version, wish, facts, actor)
        }
        // The store loads the facts by the command; a mismatch is a mistake of this program.
        _ => Err(Refused::NotFound("fact")),
    }
}
