package dachshund.core.aggregate;

/**
 * How aggregates treat what is between and behind values: the parameters of OPC 10000-13, 4.2.1.2
 * (AggregateConfigurationType), with the defaults that it gives (from memory).
 *
 * @param stepped        a value holds until the next one comes; else values between two lie on the line between them
 * @param uncertainAsBad what is uncertain is not used (TreatUncertainAsBad)
 * @param percentGood    a result is good where at least so much of its time or of its values is (PercentDataGood), 0 to 100
 * @param percentBad     a result is bad where at least so much is (PercentDataBad), 0 to 100
 */
public record Method(boolean stepped, boolean uncertainAsBad, int percentGood, int percentBad) {

    /** On the line between values, as the standard's defaults are. */
    public static final Method SLOPED = new Method(false, true, 100, 100);

    /** A value holds until the next one, as with states, counters of events and what is recorded on change. */
    public static final Method STEPPED = new Method(true, true, 100, 100);

    public Method {
        if (percentGood < 0 || percentGood > 100 || percentBad < 0 || percentBad > 100) {
            throw new IllegalArgumentException("Percentages are from 0 to 100.");
        }
        if (percentGood < 100 - percentBad) {
            throw new IllegalArgumentException(
                    "The percentage that makes a result good is at least 100 less the one that makes it bad.");
        }
    }

    boolean usable(byte grade) {
        return grade == Samples.GOOD || grade == Samples.FOLDED || grade == Samples.UNCERTAIN && !uncertainAsBad;
    }
}
