package dachshund.core.modbus;

/**
 * The four tables of a Modbus device (MODBUS Application Protocol V1.1b3, 4.3), with the digit that stands before a
 * reference such as 40001 (common practice, no source) and the largest read of one request (6.1 to 6.4).
 */
public enum ModbusTable {
    COIL("coil", 0, true, true, 2000),
    DISCRETE("discrete input", 1, true, false, 2000),
    INPUT("input register", 3, false, false, 125),
    HOLDING("holding register", 4, false, true, 125);

    private final String words;
    private final int digit;
    private final boolean bits;
    private final boolean writable;
    private final int most;

    ModbusTable(String words, int digit, boolean bits, boolean writable, int most) {
        this.words = words;
        this.digit = digit;
        this.bits = bits;
        this.writable = writable;
        this.most = most;
    }

    public String words() {
        return words;
    }

    /** Whether it holds single bits, not registers of 16 bits. */
    public boolean bits() {
        return bits;
    }

    public boolean writable() {
        return writable;
    }

    /** The most that one request may read. */
    public int most() {
        return most;
    }

    /** The reference of an address: 0 in holding registers is 40001, 10,000 is 410001. */
    public String reference(int address) {
        return address < 9999
                ? String.format("%d%04d", digit, address + 1)
                : String.format("%d%05d", digit, address + 1);
    }

    static ModbusTable ofDigit(char digit) {
        for (ModbusTable table : values()) {
            if (table.digit == digit - '0') {
                return table;
            }
        }
        throw new IllegalArgumentException(
                "A reference begins with 0 (coils), 1 (discrete inputs), 3 (input registers) or 4 (holding registers).");
    }
}
