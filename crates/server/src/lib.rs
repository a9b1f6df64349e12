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
mod drums;
mod feed;
mod guard;
mod input;
mod picture;
mod problem;
pub mod readings;
mod told;
pub mod view;
mod web;

pub use api::description;
pub use clock::Clock;
pub use guard::Hosts;
pub use problem::Problem;
