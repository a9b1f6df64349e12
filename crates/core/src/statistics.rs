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
