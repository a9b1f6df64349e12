//! Fewer points to draw, with every peak kept.

use super::Point;

/// At most about so many points, by the minimum and the maximum of equal stretches of time (min–max decimation): what is
/// drawn reaches as far up and down as the readings did, and each gap stays one. The first and the last point stay.
#[must_use]
pub fn thin(points: &[Point], most: usize) -> Vec<Point> {
    let (Some(first), Some(last)) = (points.first(), points.last()) else { return Vec::new() };
    if points.len() <= most.max(4) {
        return points.to_vec();
    }
    let (from, to) = (first.at.as_millisecond(), last.at.as_millisecond());
    let stretches = i64::try_from((most / 2).max(2)).unwrap_or(2);
    let stretch = |point: &Point| {
        let along = point.at.as_millisecond() - from;
        (along * stretches / (to - from).max(1)).min(stretches - 1)
    };
    let mut kept: Vec<usize> = vec![0];
    let mut begins = 0;
    while begins < points.len() {
        let here = stretch(&points[begins]);
        let ends = begins + points[begins..].iter().take_while(|point| stretch(point) == here).count();
        let (mut low, mut high) = (begins, begins);
        for n in begins..ends {
            if points[n].low < points[low].low {
                low = n;
            }
            if points[n].high > points[high].high {
                high = n;
            }
            if points[n].gap {
                kept.push(n);
            }
        }
        kept.extend([low, high]);
        begins = ends;
    }
    kept.push(points.len() - 1);
    kept.sort_unstable();
    kept.dedup();
    kept.into_iter().map(|n| points[n]).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::Timestamp;
    use proptest::prelude::*;

    fn at(minute: i64) -> Timestamp {
        Timestamp::from_second(1_800_000_000 + minute * 60).unwrap_or_default()
    }

    #[test]
    fn a_year_of_five_minute_readings_keeps_its_peaks_and_its_gaps() {
        let mut points: Vec<Point> =
            (0..105_120).map(|n| Point::new(at(n * 5), 6.0 + 0.01 * (n % 7) as f64, 6.1)).collect();
        points[40_003] = Point::new(points[40_003].at, 3.2, 3.2);
        points[77_777] = Point { gap: true, ..Point::new(points[77_777].at, 9.4, 9.4) };
        let thinned = thin(&points, 1500);
        assert!(thinned.len() <= 1510, "{}", thinned.len());
        let least = thinned.iter().map(|point| point.low).fold(f64::MAX, f64::min);
        let most = thinned.iter().map(|point| point.high).fold(f64::MIN, f64::max);
        assert_eq!((least, most), (3.2, 9.4));
        assert!(thinned.iter().any(|point| point.gap));
        assert_eq!((thinned.first(), thinned.last()), (points.first(), points.last()));
    }

    proptest! {
        #[test]
        fn what_is_left_out_never_reaches_further_than_what_is_drawn(
            values in prop::collection::vec((0i64..10_000, 0.0f64..14.0), 0..400),
            most in 0usize..60,
        ) {
            let mut points: Vec<Point> = values.iter().map(|(minute, v)| Point::new(at(*minute), *v, *v + 0.2)).collect();
            points.sort_by_key(|point| point.at);
            let thinned = thin(&points, most);
            let reach = |some: &[Point]| {
                let low = some.iter().map(|point| point.low).fold(f64::MAX, f64::min);
                (low, some.iter().map(|point| point.high).fold(f64::MIN, f64::max))
            };
            prop_assert_eq!(reach(&points), reach(&thinned));
            prop_assert!(thinned.windows(2).all(|pair| pair[0].at <= pair[1].at));
            prop_assert!(thinned.iter().all(|point| points.contains(point)), "nothing is made up");
            prop_assert!(thinned.len() <= most.max(4) * 2 + 4);
        }
    }
}
