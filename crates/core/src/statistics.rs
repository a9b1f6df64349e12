//! Statistics that one bad reading does not upset.

/// The median; `None` for an empty slice. Sorts a copy.
#[must_use]
pub fn median(values: &[f64]) -> Option<f64> {
    quantile(values, 0.5)
}

/// The `q`-quantile (0–1) by linear interpolation between order statistics.
#[must_use]
pub fn quantile(values: &[f64], q: f64) -> Option<f64> {
    let mut sorted: Vec<f64> = values.iter().copied().filter(|v| v.is_finite()).collect();
    sorted.sort_by(f64::total_cmp);
    let last = sorted.len().checked_sub(1)?;
    let place = q.clamp(0.0, 1.0) * last as f64;
    let (below, above) = (place.floor() as usize, place.ceil() as usize);
    Some(sorted[below] + (sorted[above] - sorted[below]) * (place - place.floor()))
}

/// Theil–Sen slope: the median of the slopes between all pairs of points `(x, y)`; `None` when
/// fewer than two points differ in x.
#[must_use]
pub fn slope(points: &[(f64, f64)]) -> Option<f64> {
    let mut slopes = Vec::new();
    for (i, a) in points.iter().enumerate() {
        slopes.extend(points[i + 1..].iter().filter(|b| (b.0 - a.0).abs() > 1e-9).map(|b| (b.1 - a.1) / (b.0 - a.0)));
    }
    median(&slopes)
}

/// Deviations of a normal distribution within which 95 of 100 lie, where the highest and the lowest of so many sides were
/// picked out: the more pairs there were to pick from, the further apart chance alone puts them (Bonferroni).
fn deviations(sides: usize) -> f64 {
    match sides {
        0..=2 => 1.96,
        3 => 2.39,
        4 => 2.64,
        5 => 2.81,
        _ => 2.94,
    }
}

/// By how much the values of `a` lie above those of `b`: the median of all differences (Hodges and Lehmann), and the range
/// that the rank-sum test leaves it at 95 of 100, where there are enough values for one. `sides` is from how many the two
/// were picked out as the highest and the lowest. `None` where a side has no value.
#[must_use]
pub fn apart(a: &[f64], b: &[f64], sides: usize) -> Option<(f64, Option<(f64, f64)>)> {
    let mut differences: Vec<f64> = a.iter().flat_map(|a| b.iter().map(move |b| a - b)).collect();
    differences.sort_by(f64::total_cmp);
    let middle = median(&differences)?;
    let (n, m) = (a.len() as f64, b.len() as f64);
    // The normal approximation of the rank sum.
    let outside = (n * m / 2.0 - deviations(sides) * (n * m * (n + m + 1.0) / 12.0).sqrt()).floor();
    let range = (outside >= 1.0).then(|| {
        let k = outside as usize;
        (differences[k - 1], differences[differences.len() - k])
    });
    Some((middle, range))
}
