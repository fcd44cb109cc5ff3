package dachshund.core.modbus;

/**
 * In which order a value of several bytes lies in its registers. A is the byte of the highest value. The protocol
 * itself sends each register with its high byte first (V1.1b3, 4.2) and says nothing of values over several registers.
 */
public enum WordOrder {
    ABCD("high word first", false, false),
    CDAB("low word first", true, false),
    BADC("high word first, bytes swapped", false, true),
    DCBA("low word first, bytes swapped", true, true);

    private final String words;
    private final boolean wordsReversed;
    private final boolean bytesSwapped;

    WordOrder(String words, boolean wordsReversed, boolean bytesSwapped) {
        this.words = words;
        this.wordsReversed = wordsReversed;
        this.bytesSwapped = bytesSwapped;
    }

    public String words() {
        return words;
    }

    /** Puts bytes in this order into the order ABCD, or the other way round: doing it twice changes nothing. */
    byte[] arrange(byte[] bytes) {
        byte[] arranged = new byte[bytes.length];
        int count = bytes.length / 2;
        for (int word = 0; word < count; word++) {
            int from = wordsReversed ? count - 1 - word : word;
            arranged[word * 2] = bytes[from * 2 + (bytesSwapped ? 1 : 0)];
            arranged[word * 2 + 1] = bytes[from * 2 + (bytesSwapped ? 0 : 1)];
        }
        return arranged;
    }
}
