//! How quantities calculate.
//!
//! Sums and shares of volumes and strengths are volumes and strengths again, and may pass the bounds
//! that hold for what is typed: three vessels hold more than one. What may turn out negative is a
//! [`Difference`], and says so in its type.

use super::{Celsius, Conductivity, Litres, Millimetres};
use crate::message::Unit;
use serde::{Deserialize, Serialize};
use std::marker::PhantomData;
use std::ops::{Add, AddAssign, Div, Mul, Sub, SubAssign};

/// What every quantity has: a number in its canonical unit.
pub trait Quantity: Copy {
    /// The canonical unit.
    const UNIT: Unit;
    /// The number.
    fn number(self) -> f64;
    /// A number that came out of a calculation on checked values; not checked against the bounds of
    /// what is typed.
    fn calculated(value: f64) -> Self;
}

/// What lies between two quantities: positive, nothing, or negative.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct Difference<Q>(f64, PhantomData<Q>);

impl<Q: Quantity> Difference<Q> {
    /// The signed number.
    #[must_use]
    pub fn get(self) -> f64 {
        self.0
    }

    /// The quantity, where there is more than nothing of it.
    #[must_use]
    pub fn positive(self) -> Option<Q> {
        (self.0 > 0.0).then(|| Q::calculated(self.0))
    }

    /// The quantity, or nothing of it where the difference is negative: for room that is not there,
    /// not for errors.
    #[must_use]
    pub fn or_nothing(self) -> Q {
        Q::calculated(self.0.max(0.0))
    }

    /// How much it is, whichever way it goes.
    #[must_use]
    pub fn size(self) -> Q {
        Q::calculated(self.0.abs())
    }
}

fn difference<Q>(value: f64) -> Difference<Q> {
    Difference(value, PhantomData)
}

/// The middle between two quantities.
#[must_use]
pub fn middle<Q: Quantity>(a: Q, b: Q) -> Q {
    Q::calculated(f64::midpoint(a.number(), b.number()))
}

/// Volumes, strengths and lengths: sums, differences, shares and ratios.
macro_rules! calculates {
    ($($name:ident),*) => {$(
        impl Add for $name {
            type Output = Self;
            fn add(self, other: Self) -> Self {
                Self(self.0 + other.0)
            }
        }
        impl AddAssign for $name {
            fn add_assign(&mut self, other: Self) {
                self.0 += other.0;
            }
        }
        impl Sub for $name {
            type Output = Difference<Self>;
            fn sub(self, other: Self) -> Difference<Self> {
                difference(self.0 - other.0)
            }
        }
        impl Add<Difference<$name>> for $name {
            type Output = Difference<Self>;
            fn add(self, other: Difference<Self>) -> Difference<Self> {
                difference(self.0 + other.0)
            }
        }
        impl Mul<f64> for $name {
            type Output = Self;
            /// A share of it; `share` is 0 or more.
            fn mul(self, share: f64) -> Self {
                debug_assert!(share >= 0.0, "a share of a quantity is never negative");
                Self(self.0 * share)
            }
        }
        impl Div<f64> for $name {
            type Output = Self;
            /// One part of `parts` equal ones; more than 0.
            fn div(self, parts: f64) -> Self {
                debug_assert!(parts > 0.0, "a quantity has more than no parts");
                Self(self.0 / parts)
            }
        }
        impl Div for $name {
            type Output = f64;
            fn div(self, other: Self) -> f64 {
                self.0 / other.0
            }
        }
        impl $name {
            /// The smaller of the two.
            #[must_use]
            pub const fn min(self, other: Self) -> Self {
                Self(self.0.min(other.0))
            }
            /// The larger of the two.
            #[must_use]
            pub const fn max(self, other: Self) -> Self {
                Self(self.0.max(other.0))
            }
        }
    )*};
}

calculates!(Litres, Conductivity, Millimetres);

impl Sub for Celsius {
    type Output = f64;
    /// Degrees between two temperatures; negative where the first is colder.
    fn sub(self, other: Self) -> f64 {
        self.0 - other.0
    }
}

/// Salt in a body of water, S = EC · V, in mS/cm · L. Neither made nor lost by pouring. A balance may
/// come out negative: then more was asked to be left than there was.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Salt(f64);

impl Salt {
    /// None.
    pub const NONE: Self = Self(0.0);

    /// The number, in mS/cm · L.
    #[must_use]
    pub fn get(self) -> f64 {
        self.0
    }
}

impl Mul<Litres> for Conductivity {
    type Output = Salt;
    fn mul(self, litres: Litres) -> Salt {
        Salt(self.0 * litres.0)
    }
}

impl Mul<Difference<Litres>> for Conductivity {
    type Output = Salt;
    fn mul(self, litres: Difference<Litres>) -> Salt {
        Salt(self.0 * litres.0)
    }
}

impl Add for Salt {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        Self(self.0 + other.0)
    }
}

impl AddAssign for Salt {
    fn add_assign(&mut self, other: Self) {
        self.0 += other.0;
    }
}

impl Sub for Salt {
    type Output = Self;
    fn sub(self, other: Self) -> Self {
        Self(self.0 - other.0)
    }
}

impl SubAssign for Salt {
    fn sub_assign(&mut self, other: Self) {
        self.0 -= other.0;
    }
}

impl std::iter::Sum for Salt {
    fn sum<I: Iterator<Item = Self>>(salts: I) -> Self {
        salts.fold(Self::NONE, Add::add)
    }
}

impl Div<Litres> for Salt {
    type Output = Difference<Conductivity>;
    /// The strength of so much salt in so much water; negative where the balance is.
    fn div(self, litres: Litres) -> Difference<Conductivity> {
        difference(self.0 / litres.0)
    }
}

impl Div<Difference<Conductivity>> for Salt {
    type Output = Difference<Litres>;
    /// The volume in which so much salt makes so much difference in strength.
    fn div(self, strength: Difference<Conductivity>) -> Difference<Litres> {
        difference(self.0 / strength.0)
    }
}

impl Div<Conductivity> for Salt {
    type Output = Difference<Litres>;
    /// The volume of water of that strength that holds so much salt.
    fn div(self, strength: Conductivity) -> Difference<Litres> {
        difference(self.0 / strength.0)
    }
}

impl std::iter::Sum for Litres {
    fn sum<I: Iterator<Item = Self>>(all: I) -> Self {
        all.fold(Self::ZERO, Add::add)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn strength_times_volume_is_salt_and_salt_over_volume_is_strength() {
        let (litres, ec) = (Litres::constant(46.0), Conductivity::constant(1.8));
        assert!((((ec * litres) / litres).get() - 1.8).abs() < 1e-12);
        assert!(((ec * litres).get() - 82.8).abs() < 1e-9);
    }

    #[test]
    fn a_negative_difference_is_never_taken_for_a_quantity() {
        let short = Litres::constant(4.0) - Litres::constant(6.0);
        assert_eq!(short.positive(), None);
        assert!((short.get() + 2.0).abs() < 1e-12);
        assert_eq!(short.size(), Litres::constant(2.0));
        assert_eq!(short.or_nothing(), Litres::ZERO);
    }

    #[test]
    fn sums_may_pass_what_one_vessel_may_hold() {
        let most = Litres::constant(Litres::MAX);
        assert!(((most + most) / most - 2.0).abs() < 1e-12);
    }
}
