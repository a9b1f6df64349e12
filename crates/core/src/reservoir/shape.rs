//! From height to litres and back.

use crate::message::count;
use crate::quantity::{Litres, Millimetres, Quantity};
use crate::{Refusal, refuse};
use serde::{Deserialize, Serialize};

/// One calibrated mark: at this height stand so many litres.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Mark {
    /// Height over the floor.
    pub height_mm: Millimetres,
    /// What stands in the vessel at that height.
    pub litres: Litres,
}

/// The inside of a vessel.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "form", rename_all = "snake_case", deny_unknown_fields)]
pub enum Shape {
    /// Straight walls, a rectangle.
    Box {
        /// Inner length.
        length_mm: Millimetres,
        /// Inner width.
        width_mm: Millimetres,
        /// Inner height to the rim.
        height_mm: Millimetres,
    },
    /// Straight walls, round.
    Cylinder {
        /// Inner diameter.
        diameter_mm: Millimetres,
        /// Inner height to the rim.
        height_mm: Millimetres,
    },
    /// Sides linear in height between a floor rectangle and a rim rectangle.
    Tapered {
        /// Length at the rim.
        rim_length_mm: Millimetres,
        /// Width at the rim.
        rim_width_mm: Millimetres,
        /// Length at the floor.
        floor_length_mm: Millimetres,
        /// Width at the floor.
        floor_width_mm: Millimetres,
        /// Inner height to the rim.
        height_mm: Millimetres,
    },
    /// Round, narrower at the floor than at the rim: a bucket.
    Bucket {
        /// Inner diameter at the rim.
        rim_diameter_mm: Millimetres,
        /// Inner diameter at the floor.
        floor_diameter_mm: Millimetres,
        /// Inner height to the rim.
        height_mm: Millimetres,
    },
    /// Litres known at some heights; linear between them and from the floor to the first.
    Marks {
        /// At least one, rising in height and in litres, at most 50.
        marks: Vec<Mark>,
    },
    /// Only the litres to the rim are known; levels are then told in litres.
    Stated {
        /// What it holds to the rim.
        litres: Litres,
    },
}

/// No side of a vessel that is in use is shorter.
const LEAST_SIDE: Millimetres = Millimetres::constant(10.0);
/// No vessel in use holds less.
const LEAST_CAPACITY: Litres = Litres::constant(0.1);
/// What a sum may be off by in its last places, for a level that stands at the rim to the digit.
pub(crate) const A_HAIR: f64 = 1.0001;

impl Shape {
    /// Checks that the vessel has a size and that marks rise.
    ///
    /// # Errors
    /// A refusal that names the dimension.
    pub fn check(&self) -> Result<(), Refusal> {
        if let Self::Marks { marks } = self {
            if marks.is_empty() || marks.len() > 50 {
                return Err(refuse!("shape_marks_count", found = count(marks.len())).at("marks"));
            }
            let falls = |w: &[Mark]| w[1].height_mm <= w[0].height_mm || w[1].litres <= w[0].litres;
            if let Some(i) = marks.windows(2).position(falls) {
                return Err(refuse!("shape_marks_fall", number = count(i + 2)).at("marks"));
            }
        }
        for (field, size) in self.dimensions() {
            if size < LEAST_SIDE {
                return Err(refuse!("shape_too_small", found = size, least = LEAST_SIDE).at(field));
            }
        }
        if self.capacity() < LEAST_CAPACITY {
            return Err(refuse!("shape_holds_nothing", found = self.capacity(), least = LEAST_CAPACITY));
        }
        Ok(())
    }

    fn dimensions(&self) -> Vec<(&'static str, Millimetres)> {
        match self {
            Self::Box { length_mm, width_mm, height_mm } => {
                vec![("length_mm", *length_mm), ("width_mm", *width_mm), ("height_mm", *height_mm)]
            }
            Self::Cylinder { diameter_mm, height_mm } => {
                vec![("diameter_mm", *diameter_mm), ("height_mm", *height_mm)]
            }
            Self::Bucket { rim_diameter_mm, floor_diameter_mm, height_mm } => vec![
                ("rim_diameter_mm", *rim_diameter_mm),
                ("floor_diameter_mm", *floor_diameter_mm),
                ("height_mm", *height_mm),
            ],
            Self::Tapered { rim_length_mm, rim_width_mm, floor_length_mm, floor_width_mm, height_mm } => vec![
                ("rim_length_mm", *rim_length_mm),
                ("rim_width_mm", *rim_width_mm),
                ("floor_length_mm", *floor_length_mm),
                ("floor_width_mm", *floor_width_mm),
                ("height_mm", *height_mm),
            ],
            Self::Marks { .. } | Self::Stated { .. } => vec![],
        }
    }

    /// Inner height to the rim (to the last mark); `None` where only litres are known.
    #[must_use]
    pub fn height(&self) -> Option<Millimetres> {
        match self {
            Self::Box { height_mm, .. }
            | Self::Cylinder { height_mm, .. }
            | Self::Tapered { height_mm, .. }
            | Self::Bucket { height_mm, .. } => Some(*height_mm),
            Self::Marks { marks } => marks.last().map(|m| m.height_mm),
            Self::Stated { .. } => None,
        }
    }

    /// What it holds to the rim.
    #[must_use]
    pub fn capacity(&self) -> Litres {
        match self {
            Self::Stated { litres } => *litres,
            Self::Marks { marks } => marks.last().map_or(Litres::ZERO, |m| m.litres),
            _ => self.height().map_or(Litres::ZERO, |rim| Litres::calculated(self.below(rim.get()))),
        }
    }

    /// The volume below a height.
    ///
    /// Tapered vessels and buckets follow the prismatoid rule, V(h) = h/6 · (A₀ + 4 A(h/2) + A(h)).
    ///
    /// # Errors
    /// A refusal above the rim, or where only litres are known.
    pub fn volume_at(&self, height: Millimetres) -> Result<Litres, Refusal> {
        let rim = self.height().ok_or_else(|| refuse!("level_by_height_unknown"))?;
        if height > rim * A_HAIR {
            return Err(refuse!("level_above_rim", found = height, rim = rim));
        }
        Ok(Litres::calculated(self.below(height.get())))
    }

    /// The height at which a volume stands; `None` where only litres are known. Volumes beyond the
    /// rim give the rim.
    #[must_use]
    pub fn height_of(&self, volume: Litres) -> Option<Millimetres> {
        let rim = self.height()?.get();
        let (mut low, mut high) = (0.0, rim);
        for _ in 0..60 {
            let middle = f64::midpoint(low, high);
            if self.below(middle) < volume.get() { low = middle } else { high = middle }
        }
        Some(Millimetres::calculated(high))
    }

    /// Width of the vessel at the floor and at the rim, for drawing its section.
    #[must_use]
    pub fn section_widths(&self) -> (f64, f64) {
        match self {
            Self::Box { length_mm, .. } => (length_mm.get(), length_mm.get()),
            Self::Cylinder { diameter_mm, .. } => (diameter_mm.get(), diameter_mm.get()),
            Self::Tapered { rim_length_mm, floor_length_mm, .. } => (floor_length_mm.get(), rim_length_mm.get()),
            Self::Bucket { rim_diameter_mm, floor_diameter_mm, .. } => (floor_diameter_mm.get(), rim_diameter_mm.get()),
            Self::Marks { .. } | Self::Stated { .. } => (1.0, 1.0),
        }
    }

    /// Litres below `h` mm, for 0 ≤ h ≤ rim.
    fn below(&self, h: f64) -> f64 {
        const MM3_PER_LITRE: f64 = 1e6;
        match self {
            Self::Box { length_mm, width_mm, .. } => length_mm.get() * width_mm.get() * h / MM3_PER_LITRE,
            Self::Cylinder { diameter_mm, .. } => {
                std::f64::consts::FRAC_PI_4 * diameter_mm.get().powi(2) * h / MM3_PER_LITRE
            }
            Self::Tapered { rim_length_mm, rim_width_mm, floor_length_mm, floor_width_mm, height_mm } => {
                let area = |at: f64| {
                    let part = at / height_mm.get();
                    let side = |floor: &Millimetres, rim: &Millimetres| floor.get() + (rim.get() - floor.get()) * part;
                    side(floor_length_mm, rim_length_mm) * side(floor_width_mm, rim_width_mm)
                };
                h / 6.0 * (area(0.0) + 4.0 * area(h / 2.0) + area(h)) / MM3_PER_LITRE
            }
            Self::Bucket { rim_diameter_mm, floor_diameter_mm, height_mm } => {
                let (rim, floor) = (rim_diameter_mm.get(), floor_diameter_mm.get());
                let area = |at: f64| {
                    let across = floor + (rim - floor) * at / height_mm.get();
                    std::f64::consts::FRAC_PI_4 * across.powi(2)
                };
                h / 6.0 * (area(0.0) + 4.0 * area(h / 2.0) + area(h)) / MM3_PER_LITRE
            }
            Self::Marks { marks } => {
                let mut before = (0.0, 0.0);
                for mark in marks {
                    let here = (mark.height_mm.get(), mark.litres.get());
                    if h <= here.0 {
                        let span = here.0 - before.0;
                        return if span > 0.0 {
                            before.1 + (here.1 - before.1) * (h - before.0) / span
                        } else {
                            here.1
                        };
                    }
                    before = here;
                }
                before.1
            }
            Self::Stated { litres } => litres.get(),
        }
    }
}
