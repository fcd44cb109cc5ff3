package dachshund.core.archive;

/**
 * For how long the values of a tag are kept, counted by their own time.
 *
 * @param days      each value for so many days; 0 for ever
 * @param summaries behind them summaries of minutes or of hours, up to so many days; 0 for as long as the values
 */
public record KeptFor(int days, int summaries) {

    public static final KeptFor EVER = new KeptFor(0, 0);

    /** As long as anything is kept that is not kept for ever, in days: a century. */
    public static final int LONGEST = 36_525;

    public KeptFor {
        if (days < 0 || days > LONGEST) {
            throw new IllegalArgumentException("Values are kept for 1 to " + LONGEST + " days, or for ever.");
        }
        if (summaries < 0 || summaries > LONGEST) {
            throw new IllegalArgumentException("Summaries are kept for 1 to " + LONGEST + " days.");
        }
        if (summaries > 0 && (days == 0 || summaries < days)) {
            throw new IllegalArgumentException(
                    "Summaries are what is left when the values go: they are kept longer than these, or not at all.");
        }
    }

    /** "ever", "30 days", "30 days, then as summaries up to 365 days". */
    public String words() {
        return days == 0
                ? "ever"
                : count(days)
                        + (summaries == LONGEST
                                ? ", then as summaries for good"
                                : summaries > days ? ", then as summaries up to " + count(summaries) : "");
    }

    private static String count(int days) {
        return days + (days == 1 ? " day" : " days");
    }
}
