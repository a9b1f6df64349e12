//! Files of readings: what a column is taken for, and what each line says or why it cannot be taken.

use crate::common::{at, system, zone};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use mopsel_core::columns::{
    ClockOf, Column, ColumnIs, ColumnUnit, DayOrder, DecimalMark, Fault, How, Known, Line, LineReader, Separator,
    WrittenBy, guess, head_line, separator,
};
use mopsel_core::fact::Timeline;
use mopsel_core::quantity::Quantity;
use mopsel_core::system::Kind;
use std::collections::BTreeMap;
use uuid::Uuid;

fn known(names: &[&str]) -> Vec<Known> {
    let one = |(n, name): (usize, &&str)| Known {
        id: Uuid::from_u128(n as u128 + 1),
        name: (*name).to_owned(),
        zone: zone(),
        history: Timeline::always(system(Kind::AeratedRaft)),
    };
    names.iter().enumerate().map(one).collect()
}

fn guessed(text: &str, systems: &[Known]) -> (How, Vec<String>) {
    let between = separator(text);
    let mark = char::from(between.byte());
    let rows: Vec<Vec<&str>> = text.lines().map(|line| line.split(mark).collect()).collect();
    let guess = guess(between, &rows[0], &rows[1..], systems);
    (guess.how, guess.asks.into_iter().filter(|ask| ask.must).map(|ask| ask.said.code.into_owned()).collect())
}

fn units(how: &How) -> Vec<(ColumnIs, Option<ColumnUnit>)> {
    how.columns.iter().map(|column| (column.is, column.unit)).collect()
}

/// Time, pH, EC and temperature of one system.
fn plain() -> How {
    let unit = |is, unit| Column { unit: Some(unit), ..Column::of(is) };
    How {
        by: WrittenBy::Logger,
        separator: Separator::Comma,
        decimal: DecimalMark::Point,
        day: DayOrder::YearFirst,
        clock: ClockOf::Place,
        head: 1,
        columns: vec![
            Column::of(ColumnIs::Time),
            Column::of(ColumnIs::Ph),
            unit(ColumnIs::Ec, ColumnUnit::MsCm),
            unit(ColumnIs::Temperature, ColumnUnit::Celsius),
        ],
        system: Some(Uuid::from_u128(1)),
        systems: BTreeMap::new(),
    }
}

fn now() -> Timestamp {
    at("2027-12-01 12:00")
}

fn read(how: &How, lines: &[&[&str]]) -> Vec<Result<Vec<Line>, String>> {
    let systems = known(&["Tub", "Rack"]);
    let mut reader = LineReader::new(how, &systems).unwrap();
    let mut said = Vec::new();
    let code = |faults: Vec<Fault>| faults[0].refusal.code.clone().into_owned();
    lines.iter().map(|cells| reader.read(cells, now(), &mut said).map(|()| said.clone()).map_err(code)).collect()
}

fn why(how: &How, cells: &[&str]) -> String {
    read(how, &[cells]).remove(0).unwrap_err()
}

fn when(how: &How, cells: &[&str]) -> Timestamp {
    read(how, &[cells]).remove(0).unwrap()[0].read.at
}

#[test]
fn a_loggers_file_from_the_continent_is_understood_without_a_question() {
    let text = "Time;System;pH;EC (mS/cm);Water temperature (°C);Humidity\n\
                09.03.2027 10:00;Tub;5,94;1,51;20,5;60\n09.03.2027 10:05;Tub;5,93;1,50;20,4;60\n";
    let (how, asks) = guessed(text, &known(&["Tub", "Rack"]));
    assert_eq!(asks, [""; 0]);
    assert_eq!(
        (how.by, how.separator, how.decimal, how.day, how.clock),
        (WrittenBy::Logger, Separator::Semicolon, DecimalMark::Comma, DayOrder::DayFirst, ClockOf::Place)
    );
    use ColumnIs as I;
    assert_eq!(
        units(&how),
        [
            (I::Time, None),
            (I::System, None),
            (I::Ph, None),
            (I::Ec, Some(ColumnUnit::MsCm)),
            (I::Temperature, Some(ColumnUnit::Celsius)),
            (I::LeftOut, None)
        ]
    );
}

#[test]
fn what_is_not_plain_is_asked() {
    let tub = known(&["Tub"]);
    let asks = |text: &str| guessed(text, &tub).1;
    assert_eq!(asks("Time,ppm\n2027-03-09 10:00,850\n2027-03-09 10:05,851\n"), ["file.ask_scale"]);
    assert_eq!(asks("Time,ppm (500)\n2027-03-09 10:00,850\n"), [""; 0]);
    assert_eq!(asks("Time,EC\n2027-03-09 10:00,1600\n"), ["file.ask_scale"], "µS/cm, or a ppm");
    assert_eq!(asks("Time,EC\n2027-03-09 10:00,1.6\n"), [""; 0]);
    assert_eq!(asks("Date,pH\n3/4/2027,6.1\n5/4/2027,6.2\n"), ["file.ask_day"], "March or April");
    assert_eq!(asks("Date,pH\n3/4/2027,6.1\n3/14/2027,6.2\n"), [""; 0]);
    assert_eq!(asks("Date,Temp\n2027-03-09,40\n"), ["file.ask_unit"], "warm in °C, cold in °F");
    assert_eq!(asks("pH,EC\n6.1,1.2\n"), ["file.ask_time"]);
    let two = known(&["Tub", "Rack"]);
    assert_eq!(guessed("Date,pH\n2027-03-09,6.1\n", &two).1, ["file.ask_system"]);
}

#[test]
fn every_system_may_have_columns_of_its_own() {
    let systems = known(&["Tub", "Tub two"]);
    let (how, asks) = guessed("Time,Tub pH,Tub two pH\n2027-03-09 10:00,6.1,5.8\n2027-03-09 10:10,6.1,\n", &systems);
    assert_eq!(asks, [""; 0]);
    let of: Vec<Option<Uuid>> = how.columns.iter().map(|column| column.system).collect();
    assert_eq!(of, [None, Some(systems[0].id), Some(systems[1].id)]);
    let mut reader = LineReader::new(&how, &systems).unwrap();
    let mut lines = Vec::new();
    reader.read(&["2027-03-09 10:00", "6.1", "5.8"], now(), &mut lines).unwrap();
    let read: Vec<(usize, f64)> = lines.iter().map(|line| (line.system, line.read.ph.unwrap().get())).collect();
    assert_eq!(read, [(0, 6.1), (1, 5.8)]);
    reader.read(&["2027-03-09 10:10", "6.1", ""], now(), &mut lines).unwrap();
    assert_eq!(lines.len(), 1, "nothing was read of the other");
}

#[test]
fn a_head_below_other_lines_is_found() {
    let row = |cells: &[&str]| cells.iter().map(|cell| (*cell).to_owned()).collect::<Vec<_>>();
    let rows = [row(&["Logger 7"]), row(&["made", "today"]), row(&["Time", "pH", "EC"]), row(&["a", "b", "c"])];
    assert_eq!(head_line(&rows), 3);
}

#[test]
fn numbers_are_read_with_one_mark_and_nothing_is_run() {
    let how = plain();
    let line = |ph: &str| why(&how, &["2027-03-09 10:00", ph, "", ""]);
    assert_eq!(line("=1+5"), "cell_formula");
    assert_eq!(line("@sum(a1)"), "cell_formula");
    assert_eq!(line("1.234,5"), "cell_comma_and_point");
    assert_eq!(line("6,1"), "cell_comma");
    assert_eq!(line("six"), "cell_no_number");
    assert_eq!(line("1e999"), "cell_no_number");
    assert_eq!(line("15"), "quantity_out_of_bounds");
    assert_eq!(line("-1"), "quantity_out_of_bounds");
    let comma = How { decimal: DecimalMark::Comma, ..plain() };
    assert_eq!(why(&comma, &["2027-03-09 10:00", "6.1", "", ""]), "cell_point");
    let read = read(&how, &[&["2027-03-09 10:00", " +6.1 ", "NaN", "--"]]).remove(0).unwrap();
    assert_eq!((read[0].read.ph.unwrap().get(), read[0].read.ec, read[0].read.temperature), (6.1, None, None));
}

#[test]
fn units_are_turned_into_ours() {
    let mut how = plain();
    how.columns[2].unit = Some(ColumnUnit::Ppm500);
    how.columns[3].unit = Some(ColumnUnit::Fahrenheit);
    let read = read(&how, &[&["2027-03-09 10:00", "", "850", "68"]]).remove(0).unwrap()[0].read;
    assert_eq!((read.ec.unwrap().get(), read.temperature.unwrap().get()), (1.7, 20.0));
}

#[test]
fn a_moment_is_told_in_many_ways() {
    let tenth = at("2027-03-09 10:05");
    let of = |day: DayOrder, clock: ClockOf, text: &str| when(&How { day, clock, ..plain() }, &[text, "6.1", "", ""]);
    use {ClockOf as C, DayOrder as D};
    for (day, clock, text) in [
        (D::YearFirst, C::Place, "2027-03-09 10:05"),
        (D::YearFirst, C::Place, "2027-03-09T10:05:00"),
        (D::DayFirst, C::Place, "9.3.2027 10:05"),
        (D::DayFirst, C::Place, "09/03/27 10:05:00.250"),
        (D::MonthFirst, C::Place, "3/9/2027 10:05 AM"),
        (D::YearFirst, C::Utc, "2027-03-09 10:05"),
        (D::YearFirst, C::Said, "2027-03-09T10:05:00Z"),
        (D::YearFirst, C::Said, "2027-03-09 11:05:00+01:00"),
        (D::YearFirst, C::Place, "1804586700"),
        (D::YearFirst, C::Said, "1804586700000"),
    ] {
        assert_eq!(of(day, clock, text), tenth, "{text}");
    }
    assert_eq!(of(D::MonthFirst, C::Place, "3/9/2027 12:05 pm"), at("2027-03-09 12:05"));
    assert_eq!(of(D::YearFirst, C::Place, "2027-03-09"), at("2027-03-09 12:00"), "a day alone was noon");
}

#[test]
fn a_moment_that_cannot_be_is_refused() {
    let how = plain();
    let line = |text: &str| why(&how, &[text, "6.1", "", ""]);
    assert_eq!(line("yesterday"), "cell_no_time");
    assert_eq!(line("2027-02-30 10:00"), "cell_no_time");
    assert_eq!(line("2027-03-09 25:00"), "cell_no_time");
    assert_eq!(line("2027-03-28 01:30"), "time_not_on_clock", "clocks went from one to two");
    assert_eq!(line("2027-03-09T10:05:00Z"), "time_with_zone", "no other line has one");
    assert_eq!(line("2028-01-01 10:00"), "time_to_come");
    assert_eq!(line("1999-01-01 10:00"), "time_long_ago");
    let said = How { clock: ClockOf::Said, ..plain() };
    assert_eq!(why(&said, &["2027-03-09 10:05", "6.1", "", ""]), "time_without_zone");
}

#[test]
fn the_hour_that_comes_twice_goes_on_from_the_line_before() {
    let how = plain();
    let times = ["00:55", "01:00", "01:30", "01:55", "01:00", "01:30", "02:00"];
    let lines: Vec<Vec<String>> = times
        .iter()
        .map(|clock| vec![format!("2027-10-31 {clock}"), "6.1".to_owned(), String::new(), String::new()])
        .collect();
    let cells: Vec<Vec<&str>> = lines.iter().map(|line| line.iter().map(String::as_str).collect()).collect();
    let rows: Vec<&[&str]> = cells.iter().map(Vec::as_slice).collect();
    let read = read(&how, &rows);
    let moments: Vec<Timestamp> = read.into_iter().map(|line| line.unwrap()[0].read.at).collect();
    assert!(moments.windows(2).all(|pair| pair[0] < pair[1]), "{moments:?}");
    assert_eq!(moments[5].to_zoned(TimeZone::UTC).time().to_string(), "01:30:00");
}

#[test]
fn a_line_of_another_system_or_with_other_cells_is_refused() {
    let mut how = plain();
    how.columns[3] = Column::of(ColumnIs::System);
    how.system = None;
    let line = |cells: &[&str]| why(&how, cells);
    assert_eq!(line(&["2027-03-09 10:00", "6.1", "1.2", "Pond"]), "line_system");
    assert_eq!(line(&["2027-03-09 10:00", "6.1", "1.2"]), "line_cells");
    how.systems = BTreeMap::from([("Pond".to_owned(), Uuid::from_u128(2))]);
    let read = read(&how, &[&["2027-03-09 10:00", "6.1", "1.2", " pond "]]).remove(0).unwrap();
    assert_eq!(read[0].system, 1);
    let twice = known(&["Tub", "Tub"]);
    let mut reader = LineReader::new(&how, &twice).unwrap();
    let fault = reader.read(&["2027-03-09 10:00", "6.1", "1.2", "Tub"], now(), &mut vec![]).unwrap_err();
    assert_eq!(fault[0].refusal.code, "line_system_twice");
}

#[test]
fn how_a_file_is_read_is_checked_before_its_lines() {
    let systems = known(&["Tub"]);
    let code = |change: &dyn Fn(&mut How)| {
        let mut how = plain();
        change(&mut how);
        LineReader::new(&how, &systems).err().map(|refusal| (refusal.code.into_owned(), refusal.field))
    };
    let is = |code: &str, field: &str| Some((code.to_owned(), field.to_owned()));
    assert_eq!(code(&|_| ()), None);
    assert_eq!(code(&|how| how.columns[2].unit = None), is("scale_missing", "columns.2"));
    assert_eq!(code(&|how| how.columns[3].unit = None), is("column_unit", "columns.3"));
    assert_eq!(code(&|how| how.columns[3].unit = Some(ColumnUnit::MsCm)), is("column_unit", "columns.3"));
    assert_eq!(code(&|how| how.columns[0] = Column::of(ColumnIs::LeftOut)), is("column_no_time", "columns"));
    assert_eq!(code(&|how| how.columns[1] = Column::of(ColumnIs::Time)), is("column_twice", "columns.1"));
    assert_eq!(code(&|how| how.columns[1] = Column::of(ColumnIs::Note)), is("column_only_people", "columns.1"));
    assert_eq!(code(&|how| how.system = None), is("column_system", "columns.1"));
    assert_eq!(code(&|how| how.columns.truncate(1)), is("column_nothing", "columns"));
    let many = |how: &mut How| how.columns = vec![Column::of(ColumnIs::LeftOut); 10_000];
    assert_eq!(code(&many), is("columns_too_many", "columns"));
}

#[test]
fn a_checklist_from_paper_is_a_visit() {
    let mut how = How { by: WrittenBy::People, ..plain() };
    how.columns[2] = Column { unit: Some(ColumnUnit::Litre), ..Column::of(ColumnIs::Added) };
    how.columns[3] = Column::of(ColumnIs::Note);
    how.columns.push(Column { check: Some(mopsel_core::system::Check::Filters), ..Column::of(ColumnIs::Tick) });
    let line = read(&how, &[&["2027-03-09", "6.1", "2", "all green", "x"]]).remove(0).unwrap().remove(0);
    let visit = line.visit();
    assert_eq!(visit.top_off.unwrap().litres.number(), 2.0);
    assert_eq!((visit.note.unwrap().as_str(), visit.done.len()), ("all green", 1));
    assert_eq!(why(&how, &["2027-03-09", "6.1", "2", "", "perhaps"]), "cell_no_tick");
}
