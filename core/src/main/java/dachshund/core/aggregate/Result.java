package dachshund.core.aggregate;

/**
 * What an aggregate comes to for one interval.
 *
 * @param at       its time, in 100 ns ticks: the beginning of the interval, or where the aggregate says when
 * @param value    NaN where there is none
 * @param grade    good, uncertain or bad: how much of what it is made of is good, by the {@link Method}
 * @param goodShare which part of the interval's time is good, from 0 to 1
 * @param twice    whether its value occurs more than once (OPC UA's MultiValue bit)
 */
public record Result(long at, double value, byte grade, double goodShare, boolean twice) {

    /** Whether there is a value. */
    public boolean present() {
        return !Double.isNaN(value);
    }
}
