package dachshund.links.opcua;

import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import java.lang.reflect.Array;
import java.math.BigDecimal;
import java.time.Instant;
import java.util.Base64;
import java.util.HexFormat;
import java.util.Optional;
import org.eclipse.milo.opcua.stack.core.NodeIds;
import org.eclipse.milo.opcua.stack.core.OpcUaDataType;
import org.eclipse.milo.opcua.stack.core.types.builtin.ByteString;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.DateTime;
import org.eclipse.milo.opcua.stack.core.types.builtin.ExpandedNodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.builtin.Matrix;
import org.eclipse.milo.opcua.stack.core.types.builtin.NodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.QualifiedName;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.Variant;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.ULong;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;

/** OPC UA values, status codes and times as ours. */
final class OpcUaValues {

    /** The two highest bits of a status code: 00 good, 01 uncertain, 10 bad (OPC 10000-4, 7.39). */
    private static final int SEVERITY_SHIFT = 30;

    private static final Quality NO_PART =
            Quality.bad(0x80370000L, "the value has no such element or field (Bad_IndexRangeNoData)");

    private OpcUaValues() {}

    /**
     * @param part which part of the value is wanted
     * @param hex  whether byte strings are shown in hexadecimal, else in Base64 (RFC 4648, sections 8 and 4)
     */
    static TagValue tagValue(DataValue value, OpcUaPart part, Instant received, boolean hex) {
        Optional<Instant> serverTime = time(value.getServerTime());
        Instant sourceTime = time(value.getSourceTime()).or(() -> serverTime).orElse(received);
        Object raw = value.getValue() == null ? null : value.getValue().getValue();
        Quality quality = quality(value.getStatusCode());
        if (raw == null || part.whole()) {
            return new TagValue(
                    Optional.ofNullable(raw).map(each -> plain(each, hex)), quality, sourceTime, received, serverTime);
        }
        Optional<Object> piece = part.of(raw).map(each -> plain(each, hex));
        return new TagValue(
                piece, piece.isEmpty() && !quality.isBad() ? NO_PART : quality, sourceTime, received, serverTime);
    }

    /** Whether values were lost because the queue at the server was full: info type DataValue with the overflow bit (OPC 10000-4, 7.39.1). */
    static boolean overflow(DataValue value) {
        return value.getStatusCode() != null && (value.getStatusCode().getValue() & 0x480) == 0x480;
    }

    private static Optional<Instant> time(DateTime time) {
        return Optional.ofNullable(time)
                .filter(known -> known.getUtcTime() > 0)
                .map(known -> OpcUaTime.toInstant(known.getUtcTime()));
    }

    static Quality quality(StatusCode status) {
        long code = status == null ? 0 : status.getValue();
        if (code == 0) {
            return Quality.GOOD;
        }
        Quality.Grade grade =
                switch ((int) (code >>> SEVERITY_SHIFT) & 3) {
                    case 0 -> Quality.Grade.GOOD;
                    case 1 -> Quality.Grade.UNCERTAIN;
                    default -> Quality.Grade.BAD;
                };
        boolean plainGood = grade == Quality.Grade.GOOD && (code & 0x3FFF0000L) == 0;
        return new Quality(grade, code, plainGood ? "" : OpcUaWords.of(code));
    }

    private static Object plain(Object raw, boolean hex) {
        if (raw instanceof Boolean || raw instanceof String || raw instanceof Double || raw instanceof Long) {
            return raw;
        }
        if (raw instanceof Float single) {
            // By its shortest decimal form: 0.1f is meant as 0.1, not as 0.10000000149.
            return single.isNaN() || single.isInfinite()
                    ? Double.valueOf(single)
                    : Double.valueOf(Float.toString(single));
        }
        if (raw instanceof ULong big) {
            return big.toBigInteger().bitLength() <= 63 ? (Object) big.longValue() : new BigDecimal(big.toBigInteger());
        }
        if (raw instanceof Number whole) {
            return whole.longValue();
        }
        if (raw instanceof DateTime time) {
            return OpcUaTime.toInstant(time.getUtcTime());
        }
        if (raw instanceof LocalizedText text) {
            return text.getText() == null ? "" : text.getText();
        }
        if (raw instanceof QualifiedName name) {
            return name.getName() == null ? "" : name.getName();
        }
        if (raw instanceof ByteString bytes) {
            return hex
                    ? HexFormat.of().withUpperCase().formatHex(bytes.bytesOrEmpty())
                    : Base64.getEncoder().encodeToString(bytes.bytesOrEmpty());
        }
        if (raw instanceof NodeId id) {
            return id.toParseableString();
        }
        if (raw instanceof ExpandedNodeId id) {
            return id.toParseableString();
        }
        if (raw instanceof StatusCode status) {
            return OpcUaWords.of(status.getValue());
        }
        if (raw instanceof Variant variant) {
            return variant.getValue() == null ? "" : plain(variant.getValue(), hex);
        }
        if (raw instanceof Matrix matrix) {
            return json(matrix.getElements(), matrix.getDimensions(), 0, new int[1], hex)
                    .toString();
        }
        if (raw.getClass().isArray()) {
            return json(raw, new int[] {Array.getLength(raw)}, 0, new int[1], hex)
                    .toString();
        }
        return raw.toString();
    }

    /** Elements as a JSON array (RFC 8259), all of them; of a matrix row by row. */
    private static ArrayNode json(Object elements, int[] dimensions, int depth, int[] at, boolean hex) {
        ArrayNode array = JsonNodeFactory.instance.arrayNode();
        for (int i = 0; elements != null && i < dimensions[depth] && at[0] < Array.getLength(elements); i++) {
            if (depth < dimensions.length - 1) {
                array.add(json(elements, dimensions, depth + 1, at, hex));
                continue;
            }
            Object element = Array.get(elements, at[0]++);
            Object plain = element == null ? null : plain(element, hex);
            if (plain == null) {
                array.addNull();
            } else if (plain instanceof Boolean yes) {
                array.add(yes);
            } else if (plain instanceof Long whole) {
                array.add(whole);
            } else if (plain instanceof Double number && Double.isFinite(number)) {
                array.add(number);
            } else if (plain instanceof BigDecimal exact) {
                array.add(exact);
            } else {
                array.add(plain.toString());
            }
        }
        return array;
    }

    /**
     * A value of ours as the built-in type of a node.
     *
     * @throws IllegalArgumentException with a sentence, where it does not fit
     */
    static Object typed(NodeId dataType, Object value) {
        OpcUaDataType type = OpcUaDataType.fromNodeId(dataType);
        if (type == null) {
            throw new IllegalArgumentException("This server's type of the tag is none that can be written from here.");
        }
        try {
            return switch (type) {
                case Boolean, String -> value;
                case Double -> ((Number) value).doubleValue();
                case Float -> {
                    float single = ((Number) value).floatValue();
                    if (!Float.isFinite(single)) {
                        throw new IllegalArgumentException("That is too large for a Float.");
                    }
                    yield single;
                }
                case SByte -> (byte) whole(value, Byte.MIN_VALUE, Byte.MAX_VALUE);
                case Byte -> Unsigned.ubyte((short) whole(value, 0, 255));
                case Int16 -> (short) whole(value, Short.MIN_VALUE, Short.MAX_VALUE);
                case UInt16 -> Unsigned.ushort((int) whole(value, 0, 65_535));
                case Int32 -> (int) whole(value, Integer.MIN_VALUE, Integer.MAX_VALUE);
                case UInt32 -> Unsigned.uint(whole(value, 0, 4_294_967_295L));
                case Int64 -> whole(value, Long.MIN_VALUE, Long.MAX_VALUE);
                case UInt64 -> Unsigned.ulong(whole(value, 0, Long.MAX_VALUE));
                case DateTime -> new DateTime(OpcUaTime.toTicks((Instant) value));
                case LocalizedText -> LocalizedText.english((String) value);
                default -> throw new IllegalArgumentException("A " + type + " cannot be written from here.");
            };
        } catch (ClassCastException other) {
            throw new IllegalArgumentException("The server's type is " + type + "; this value is another.", other);
        }
    }

    private static long whole(Object value, long least, long most) {
        long whole = value instanceof Long exact ? exact : new BigDecimal(((Number) value).toString()).longValueExact();
        if (whole < least || whole > most) {
            throw new IllegalArgumentException("The server's type takes " + least + " to " + most + ".");
        }
        return whole;
    }

    /** The kind of a value itself. */
    static DataKind kindOf(Object value) {
        if (value == null) {
            return DataKind.OTHER;
        }
        Object plain = plain(value, false);
        return plain instanceof Boolean
                ? DataKind.BOOLEAN
                : plain instanceof Double
                        ? DataKind.NUMBER
                        : plain instanceof Number
                                ? value instanceof ULong ? DataKind.UNSIGNED : DataKind.INTEGER
                                : plain instanceof Instant
                                        ? DataKind.TIME
                                        : value instanceof String || value instanceof LocalizedText
                                                ? DataKind.TEXT
                                                : DataKind.OTHER;
    }

    /** The kind that a data type of namespace 0 stands for; other types are read as other. */
    static DataKind kind(NodeId dataType) {
        if (NodeIds.Boolean.equals(dataType)) {
            return DataKind.BOOLEAN;
        }
        if (NodeIds.Double.equals(dataType)
                || NodeIds.Float.equals(dataType)
                || NodeIds.Number.equals(dataType)
                || NodeIds.Duration.equals(dataType)) {
            return DataKind.NUMBER;
        }
        if (NodeIds.String.equals(dataType)
                || NodeIds.LocalizedText.equals(dataType)
                || NodeIds.QualifiedName.equals(dataType)) {
            return DataKind.TEXT;
        }
        if (NodeIds.DateTime.equals(dataType) || NodeIds.UtcTime.equals(dataType)) {
            return DataKind.TIME;
        }
        if (NodeIds.UInt64.equals(dataType)) {
            return DataKind.UNSIGNED;
        }
        boolean whole = NodeIds.SByte.equals(dataType)
                || NodeIds.Byte.equals(dataType)
                || NodeIds.Int16.equals(dataType)
                || NodeIds.UInt16.equals(dataType)
                || NodeIds.Int32.equals(dataType)
                || NodeIds.UInt32.equals(dataType)
                || NodeIds.Int64.equals(dataType)
                || NodeIds.Integer.equals(dataType)
                || NodeIds.UInteger.equals(dataType);
        return whole ? DataKind.INTEGER : DataKind.OTHER;
    }
}
