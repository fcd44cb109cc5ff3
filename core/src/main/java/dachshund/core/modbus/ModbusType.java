package dachshund.core.modbus;

import dachshund.core.tag.DataKind;

/** What registers hold. A text has as many registers as its length asks for. */
public enum ModbusType {
    UINT16("16 bit unsigned", 1, DataKind.INTEGER),
    INT16("16 bit signed", 1, DataKind.INTEGER),
    UINT32("32 bit unsigned", 2, DataKind.INTEGER),
    INT32("32 bit signed", 2, DataKind.INTEGER),
    UINT64("64 bit unsigned", 4, DataKind.UNSIGNED),
    INT64("64 bit signed", 4, DataKind.INTEGER),
    FLOAT32("float, 32 bit", 2, DataKind.NUMBER),
    FLOAT64("float, 64 bit", 4, DataKind.NUMBER),
    TEXT("text", 0, DataKind.TEXT),
    BIT("one bit", 1, DataKind.BOOLEAN);

    private final String words;
    private final int registers;
    private final DataKind kind;

    ModbusType(String words, int registers, DataKind kind) {
        this.words = words;
        this.registers = registers;
        this.kind = kind;
    }

    public String words() {
        return words;
    }

    /** Registers it takes; 0 where its length says. */
    public int registers() {
        return registers;
    }

    public DataKind kind() {
        return kind;
    }
}
