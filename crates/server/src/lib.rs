//! Mopsel's server: the API, the embedded pages, and the parts that `main` puts together.
//!
//! Handlers are thin: parse, load from the [`book`], ask the core, answer. The routes stand as a
//! sitemap in [`app`].

#![warn(missing_docs)]

mod actor;
mod api;
pub mod app;
pub mod archive;
pub mod book;
mod clock;
mod closures;
pub mod demo;
mod door;
mod drums;
mod feed;
mod guard;
mod input;
mod limits;
pub mod mailbox;
pub mod network;
pub mod permits;
mod picture;
pub mod post;
mod problem;
pub mod readings;
pub mod secrets;
pub mod shelf;
mod sight;
pub mod tls;
mod told;
pub mod view;
mod web;

pub use api::description;
pub use api::{link_address, new_link};
pub use clock::Clock;
pub use door::{Door, Reach};
pub use guard::Hosts;
pub use problem::Problem;
