//! Cases of what ails plants, open and closed, each as a short story.

use mopsel_core::calendar::day;
use mopsel_core::care::follow_up::next_look;
use mopsel_core::fact::{CasePlan, plan};
use mopsel_core::message::{Message, count, days};
use mopsel_core::projection::{Case, PlantCase};
use mopsel_core::say;
use mopsel_core::situation::Situation;
use mopsel_core::system::PortSet;
use mopsel_core::words::Speaker;
use serde::Serialize;
use utoipa::ToSchema;

/// One look at a case.
#[derive(Debug, Serialize, ToSchema)]
pub struct CaseLookView {
    /// When, in words.
    pub when: String,
    /// How it stood.
    pub said: String,
}

/// A case.
#[derive(Debug, Serialize, ToSchema)]
pub struct CaseView {
    /// What it is about: the key of a cause.
    pub key: String,
    /// The same in words.
    pub name: String,
    /// Whether it is open.
    pub open: bool,
    /// In which ports it was last seen, where that is known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ports: Option<PortSet>,
    /// How it stands, in a sentence.
    pub state: String,
    /// The looks so far, the opening among them, oldest first.
    pub looks: Vec<CaseLookView>,
    /// The days still planned, in words; the first of them is the next look.
    pub planned: Vec<String>,
    /// What closes it, and who else is a suspect.
    pub rule: String,
    /// What is done about it.
    pub doing: String,
    /// What was learnt.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub learnt: Option<String>,
}

/// Every case that is kept, the open ones first, then the last closed.
pub fn cases(s: &Situation<'_>, speaker: &Speaker) -> Vec<CaseView> {
    let known = &s.known.cases;
    let rot = known.all.iter().rev().map(|case| (case.closed.is_none(), case.opened, root_rot(case, s, speaker)));
    let plants =
        known.plants.iter().rev().filter_map(|case| {
            Some((case.closed.is_none(), case.opened, of_plants(case, plan(&case.cause)?, s, speaker)))
        });
    let mut all: Vec<_> = rot.chain(plants).collect();
    all.sort_by_key(|(open, opened, _)| (!open, std::cmp::Reverse(*opened)));
    all.into_iter().map(|(.., view)| view).take(MOST).collect()
}

/// Cases that a page shows.
const MOST: usize = 6;

fn of_plants(case: &PlantCase, plan: &CasePlan, s: &Situation<'_>, speaker: &Speaker) -> CaseView {
    let say = |message: Message| speaker.say(&message);
    let today = s.today();
    let when = |at| speaker.day(s.date(at), today);
    let next = next_look(case, plan, s);
    let state = match case.closed {
        Some(closed) => {
            let lasted = days(f64::from((s.date(closed) - s.date(case.opened)).get_days()));
            let (from, to) = (day(s.date(case.opened), today), day(s.date(closed), today));
            say!("case_view.closed", from = from, to = to, lasted = lasted)
        }
        None if case.again => {
            say!("case_view.again", since = day(s.date(case.opened), today), next = day(next, today))
        }
        None => say!("case_view.open", since = day(s.date(case.opened), today), next = day(next, today)),
    };
    let looks = case.looks.iter().map(|(at, outcome)| CaseLookView {
        when: when(*at),
        said: say(say!("case_view.look", outcome = outcome.say())),
    });
    let later = plan.looks.iter().map(|days| mopsel_core::calendar::add_whole_days(s.date(case.opened), *days));
    let mut planned: Vec<_> = later.filter(|on| *on >= next).collect();
    if !planned.contains(&next) {
        planned.insert(0, next);
    }
    let shares = Message::of("case_view.shares", plan.shares.code(), "say");
    CaseView {
        key: case.cause.clone(),
        name: say(plan.name()),
        open: case.closed.is_none(),
        ports: case.ports.clone(),
        state: say(state),
        looks: looks.collect(),
        planned: if case.closed.is_some() {
            vec![]
        } else {
            planned.into_iter().map(|on| speaker.day(on, today)).collect()
        },
        rule: say(say!("case_view.rule", sound = count(plan.sound), shares = shares)),
        doing: say(plan.doing()),
        learnt: case.learnt.as_ref().map(|note| note.as_str().to_owned()),
    }
}

fn root_rot(case: &Case, s: &Situation<'_>, speaker: &Speaker) -> CaseView {
    let say = |message: Message| speaker.say(&message);
    let (today, opened) = (s.today(), s.date(case.opened));
    let state = match case.closed {
        Some(closed) => {
            let lasted = days(f64::from((s.date(closed) - opened).get_days()));
            say!("case_view.closed", from = day(opened, today), to = day(s.date(closed), today), lasted = lasted)
        }
        None => {
            say!("case_view.rot", since = day(opened, today), stage = case.stage.say(), sound = count(case.sound_looks))
        }
    };
    let treated = case
        .treated
        .map(|at| CaseLookView { when: speaker.day(s.date(at), today), said: say(say!("case_view.treated")) });
    let found = CaseLookView { when: speaker.day(opened, today), said: say(say!("case_view.found")) };
    CaseView {
        key: "root_rot".to_owned(),
        name: say(Message::of("cause", "root_rot", "name")),
        open: case.closed.is_none(),
        ports: case.ports.clone(),
        state: say(state),
        looks: [found].into_iter().chain(treated).collect(),
        planned: vec![],
        rule: say(say!("case_view.rot_rule")),
        doing: say(Message::of("cause", "root_rot", "do")),
        learnt: None,
    }
}
