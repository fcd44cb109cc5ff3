package dachshund.core.modbus;

import dachshund.core.tag.DataKind;
import java.math.BigDecimal;
import java.util.Locale;
import java.util.Map;

/**
 * Where and how one value lies in a Modbus device.
 *
 * @param unit    unit id (slave address), 0 to 255
 * @param table   which of the four tables
 * @param address counted from 0, as in the protocol
 * @param type    for coils and discrete inputs always BIT
 * @param order   how several bytes lie
 * @param bit     for BIT in registers: 0 (lowest) to 15
 * @param length  for TEXT: characters, two to a register
 * @param scale   value = raw × scale + offset
 * @param offset  see scale
 */
public record ModbusPoint(
        int unit,
        ModbusTable table,
        int address,
        ModbusType type,
        WordOrder order,
        int bit,
        int length,
        BigDecimal scale,
        BigDecimal offset) {

    private static final int LAST = 65_535;

    public ModbusPoint {
        if (address < 0 || address + Math.max(1, table.bits() ? 1 : registers(type, length)) - 1 > LAST) {
            throw new IllegalArgumentException("Addresses run from 0 to 65,535, and the whole value must lie within.");
        }
    }

    /**
     * Reads the description of a tag: unit_id, table, register, type, order, bit, length, scale, offset.
     *
     * @throws IllegalArgumentException with a sentence on what is wrong
     */
    public static ModbusPoint read(Map<String, String> how) {
        String register = how.getOrDefault("register", "").strip();
        String tableName = how.getOrDefault("table", "").strip();
        if (!register.matches("\\d{1,6}")) {
            throw new IllegalArgumentException(
                    "A register is an address from 0, such as 40, or a reference such as 40041.");
        }
        ModbusTable table;
        int address;
        if (tableName.isEmpty()) {
            if (register.length() < 5) {
                throw new IllegalArgumentException("Say in which table the address " + register
                        + " lies, or write a reference such as 4" + pad(register) + ".");
            }
            table = ModbusTable.ofDigit(register.charAt(0));
            address = Integer.parseInt(register.substring(1)) - 1;
        } else {
            table = table(tableName);
            address = Integer.parseInt(register);
        }
        ModbusType type = table.bits()
                ? ModbusType.BIT
                : choice(ModbusType.class, how.getOrDefault("type", ""), ModbusType.UINT16, "type");
        WordOrder order = choice(WordOrder.class, how.getOrDefault("order", ""), WordOrder.ABCD, "word order");
        int bit = whole(how, "bit", 0, 15, 0, "A bit is 0 (the lowest) to 15.");
        int length = whole(how, "length", 1, 250, 0, "A text has 1 to 250 characters.");
        if (type == ModbusType.TEXT && length == 0) {
            throw new IllegalArgumentException("A text needs its length in characters.");
        }
        return new ModbusPoint(
                whole(how, "unit_id", 0, 255, 1, "A unit id is 0 to 255."),
                table,
                address,
                type,
                order,
                bit,
                length,
                number(how, "scale", BigDecimal.ONE),
                number(how, "offset", BigDecimal.ZERO));
    }

    private static String pad(String register) {
        return String.format("%04d", Integer.parseInt(register) + 1);
    }

    private static ModbusTable table(String name) {
        for (ModbusTable table : ModbusTable.values()) {
            if (table.name().equalsIgnoreCase(name) || table.words().equalsIgnoreCase(name)) {
                return table;
            }
        }
        throw new IllegalArgumentException("A table is one of: coil, discrete, input, holding.");
    }

    private static <T extends Enum<T>> T choice(Class<T> type, String text, T otherwise, String what) {
        if (text.isBlank()) {
            return otherwise;
        }
        try {
            return Enum.valueOf(type, text.strip().toUpperCase(Locale.ROOT));
        } catch (IllegalArgumentException unknown) {
            throw new IllegalArgumentException("There is no " + what + " \"" + text.strip() + "\". There are: "
                    + String.join(
                            ", ",
                            java.util.Arrays.stream(type.getEnumConstants())
                                    .map(each -> each.name().toLowerCase(Locale.ROOT))
                                    .toList())
                    + ".");
        }
    }

    private static int whole(
            Map<String, String> how, String name, int least, int most, int otherwise, String sentence) {
        String text = how.getOrDefault(name, "").strip();
        if (text.isEmpty()) {
            return otherwise;
        }
        if (!text.matches("\\d{1,5}") || Integer.parseInt(text) < least || Integer.parseInt(text) > most) {
            throw new IllegalArgumentException(sentence);
        }
        return Integer.parseInt(text);
    }

    private static BigDecimal number(Map<String, String> how, String name, BigDecimal otherwise) {
        String text = how.getOrDefault(name, "").strip();
        if (text.isEmpty()) {
            return otherwise;
        }
        try {
            BigDecimal number = new BigDecimal(text);
            if (name.equals("scale") && number.signum() == 0) {
                throw new IllegalArgumentException("A scale of 0 would make every value 0.");
            }
            return number;
        } catch (NumberFormatException notANumber) {
            throw new IllegalArgumentException("The " + name + " is a number, such as 0.1.", notANumber);
        }
    }

    private static int registers(ModbusType type, int length) {
        return type == ModbusType.TEXT ? (length + 1) / 2 : type.registers();
    }

    /** How many registers, or bits of a table of bits, it takes. */
    public int size() {
        return table.bits() ? 1 : registers(type, length);
    }

    /** First address after it. */
    public int end() {
        return address + size();
    }

    public boolean scaled() {
        return scale.compareTo(BigDecimal.ONE) != 0 || offset.signum() != 0;
    }

    /** The sort of value it gives. */
    public DataKind kind() {
        return type.kind().whole() && scaled() ? DataKind.NUMBER : type.kind();
    }

    /** Both notations side by side: holding register 40 (40041), unit 3. */
    public String words() {
        return table.words() + " " + address + " (" + table.reference(address) + "), unit " + unit;
    }
}
