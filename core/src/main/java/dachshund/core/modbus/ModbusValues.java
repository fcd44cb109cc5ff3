package dachshund.core.modbus;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.Optional;

/**
 * Registers as values and values as registers. Registers come as the protocol sends them: two bytes each, high byte
 * first (MODBUS Application Protocol V1.1b3, 4.2). Floats are IEEE 754 binary32 and binary64.
 */
public final class ModbusValues {

    private ModbusValues() {}

    /**
     * The value of a point.
     *
     * @param registers {@link ModbusPoint#size} registers as bytes
     * @return Boolean, Long, BigDecimal, Double (may be not finite) or String
     */
    public static Object decode(ModbusPoint point, byte[] registers) {
        byte[] bytes = point.order().arrange(registers);
        ByteBuffer buffer = ByteBuffer.wrap(bytes);
        return switch (point.type()) {
            case BIT -> (buffer.getShort() >> point.bit() & 1) == 1;
            case INT16 -> scaled(point, BigDecimal.valueOf(buffer.getShort()));
            case UINT16 -> scaled(point, BigDecimal.valueOf(buffer.getShort() & 0xFFFF));
            case INT32 -> scaled(point, BigDecimal.valueOf(buffer.getInt()));
            case UINT32 -> scaled(point, BigDecimal.valueOf(buffer.getInt() & 0xFFFFFFFFL));
            case INT64 -> scaled(point, BigDecimal.valueOf(buffer.getLong()));
            case UINT64 -> scaled(point, new BigDecimal(new BigInteger(1, bytes)));
            case FLOAT32 -> scaled(point, buffer.getFloat());
            case FLOAT64 -> scaled(point, buffer.getDouble());
            case TEXT -> text(bytes, point.length());
        };
    }

    private static Object scaled(ModbusPoint point, BigDecimal raw) {
        if (point.scaled()) {
            return raw.multiply(point.scale()).add(point.offset()).doubleValue();
        }
        return raw.precision() <= 18 || raw.toBigInteger().bitLength() < 64 ? (Object) raw.longValueExact() : raw;
    }

    private static Object scaled(ModbusPoint point, float raw) {
        // By its shortest decimal form: 0.1 as a float is meant as 0.1.
        return scaled(point, Float.isFinite(raw) ? Double.parseDouble(Float.toString(raw)) : raw);
    }

    private static Object scaled(ModbusPoint point, double raw) {
        return !point.scaled() || !Double.isFinite(raw)
                ? (Object) raw
                : BigDecimal.valueOf(raw)
                        .multiply(point.scale())
                        .add(point.offset())
                        .doubleValue();
    }

    private static String text(byte[] bytes, int length) {
        int end = 0;
        while (end < Math.min(length, bytes.length) && bytes[end] != 0) {
            end++;
        }
        return new String(bytes, 0, end, StandardCharsets.ISO_8859_1).stripTrailing();
    }

    /**
     * The registers of a value; for a point of type BIT in a register the present register is needed.
     *
     * @param present the register as it is now; absent for all other types
     * @throws IllegalArgumentException with a sentence, where the value does not fit
     */
    public static byte[] encode(ModbusPoint point, Object value, Optional<byte[]> present) {
        byte[] bytes =
                switch (point.type()) {
                    case BIT -> bit(point, value, present);
                    case INT16 -> whole(point, value, -32_768, 32_767, 2);
                    case UINT16 -> whole(point, value, 0, 65_535, 2);
                    case INT32 -> whole(point, value, Integer.MIN_VALUE, Integer.MAX_VALUE, 4);
                    case UINT32 -> whole(point, value, 0, 4_294_967_295L, 4);
                    case INT64 ->
                        wide(raw(point, value), BigInteger.valueOf(Long.MIN_VALUE), BigInteger.valueOf(Long.MAX_VALUE));
                    case UINT64 ->
                        wide(
                                raw(point, value),
                                BigInteger.ZERO,
                                BigInteger.ONE.shiftLeft(64).subtract(BigInteger.ONE));
                    case FLOAT32 ->
                        ByteBuffer.allocate(4).putFloat(single(point, value)).array();
                    case FLOAT64 ->
                        ByteBuffer.allocate(8).putDouble(real(point, value)).array();
                    case TEXT -> characters(point, value);
                };
        return point.order().arrange(bytes);
    }

    private static byte[] bit(ModbusPoint point, Object value, Optional<byte[]> present) {
        if (!(value instanceof Boolean on)) {
            throw new IllegalArgumentException("A bit is yes or no.");
        }
        short register =
                ByteBuffer.wrap(point.order().arrange(present.orElseThrow())).getShort();
        int mask = 1 << point.bit();
        return ByteBuffer.allocate(2)
                .putShort((short) (on ? register | mask : register & ~mask))
                .array();
    }

    private static BigDecimal number(Object value) {
        if (value instanceof BigDecimal exact) {
            return exact;
        }
        if (value instanceof Number number) {
            return number instanceof Long whole ? BigDecimal.valueOf(whole) : BigDecimal.valueOf(number.doubleValue());
        }
        throw new IllegalArgumentException("A number is needed here.");
    }

    private static BigInteger raw(ModbusPoint point, Object value) {
        BigDecimal raw = number(value).subtract(point.offset()).divide(point.scale(), 9, RoundingMode.HALF_UP);
        BigDecimal whole = raw.setScale(0, RoundingMode.HALF_UP);
        if (!point.scaled() && whole.compareTo(raw) != 0) {
            throw new IllegalArgumentException("The register takes whole numbers only.");
        }
        return whole.toBigInteger();
    }

    private static byte[] whole(ModbusPoint point, Object value, long least, long most, int bytes) {
        BigInteger raw = raw(point, value);
        check(raw, BigInteger.valueOf(least), BigInteger.valueOf(most));
        byte[] all = ByteBuffer.allocate(8).putLong(raw.longValue()).array();
        return Arrays.copyOfRange(all, 8 - bytes, 8);
    }

    private static byte[] wide(BigInteger raw, BigInteger least, BigInteger most) {
        check(raw, least, most);
        return ByteBuffer.allocate(8).putLong(raw.longValue()).array();
    }

    private static void check(BigInteger raw, BigInteger least, BigInteger most) {
        if (raw.compareTo(least) < 0 || raw.compareTo(most) > 0) {
            throw new IllegalArgumentException(
                    "That would be " + raw + " in the register, which takes " + least + " to " + most + ".");
        }
    }

    private static double real(ModbusPoint point, Object value) {
        double wanted = number(value).doubleValue();
        return point.scaled()
                ? (wanted - point.offset().doubleValue()) / point.scale().doubleValue()
                : wanted;
    }

    private static float single(ModbusPoint point, Object value) {
        float single = (float) real(point, value);
        if (!Float.isFinite(single)) {
            throw new IllegalArgumentException("That is too large for a float of 32 bits.");
        }
        return single;
    }

    private static byte[] characters(ModbusPoint point, Object value) {
        byte[] text = String.valueOf(value).getBytes(StandardCharsets.ISO_8859_1);
        if (text.length > point.length()) {
            throw new IllegalArgumentException(
                    "The text takes " + point.length() + " characters; this has " + text.length + ".");
        }
        return Arrays.copyOf(text, point.size() * 2);
    }
}
