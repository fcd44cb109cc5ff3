package dachshund.core.tag;

/**
 * The values a tag takes in normal work, such as EURange of OPC UA (OPC 10000-8, 5.6.2). Both ends belong to it.
 *
 * @param low  in the unit of the tag
 * @param high in the unit of the tag, not below {@code low}
 */
public record Range(double low, double high) {

    public Range {
        if (!(low <= high) || !Double.isFinite(low) || !Double.isFinite(high)) {
            throw new IllegalArgumentException("The low end of a range is a number not above its high end.");
        }
    }

    public boolean contains(double value) {
        return value >= low && value <= high;
    }

    /** The distance between both ends. */
    public double span() {
        return high - low;
    }

    /** Both ends as a person writes them: 0 to 250. */
    public String words() {
        return plain(low) + " to " + plain(high);
    }

    /** A number without an exponent or needless zeros. */
    public static String plain(double number) {
        return java.math.BigDecimal.valueOf(number).stripTrailingZeros().toPlainString();
    }
}
