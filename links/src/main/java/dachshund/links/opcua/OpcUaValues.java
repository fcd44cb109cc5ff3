package dachshund.links.opcua;

import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import java.lang.reflect.Array;
import java.math.BigDecimal;
import java.time.Instant;
import java.util.Optional;
import java.util.StringJoiner;
import org.eclipse.milo.opcua.stack.core.NodeIds;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.DateTime;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.builtin.NodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.QualifiedName;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.ULong;

/** OPC UA values, status codes and times as ours. */
final class OpcUaValues {

    /** The two highest bits of a status code: 00 good, 01 uncertain, 10 bad (OPC 10000-4, 7.39). */
    private static final int SEVERITY_SHIFT = 30;

    private OpcUaValues() {
    }

    static TagValue tagValue(DataValue value, Instant received) {
        Instant sourceTime = time(value.getSourceTime()).or(() -> time(value.getServerTime())).orElse(received);
        Object raw = value.getValue() == null ? null : value.getValue().getValue();
        return new TagValue(Optional.ofNullable(raw).map(OpcUaValues::plain), quality(value.getStatusCode()), sourceTime, received);
    }

    private static Optional<Instant> time(DateTime time) {
        return Optional.ofNullable(time).filter(known -> known.getUtcTime() > 0).map(known -> OpcUaTime.toInstant(known.getUtcTime()));
    }

    static Quality quality(StatusCode status) {
        long code = status == null ? 0 : status.getValue();
        if (code == 0) {
            return Quality.GOOD;
        }
        Quality.Grade grade = switch ((int) (code >>> SEVERITY_SHIFT) & 3) {
            case 0 -> Quality.Grade.GOOD;
            case 1 -> Quality.Grade.UNCERTAIN;
            default -> Quality.Grade.BAD;
        };
        return new Quality(grade, code, OpcUaConnection.words(code));
    }

    private static Object plain(Object raw) {
        if (raw instanceof Boolean || raw instanceof String || raw instanceof Double || raw instanceof Long) {
            return raw;
        }
        if (raw instanceof Float single) {
            // By its shortest decimal form: 0.1f is meant as 0.1, not as 0.10000000149.
            return single.isNaN() || single.isInfinite() ? Double.valueOf(single) : Double.valueOf(Float.toString(single));
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
        if (raw.getClass().isArray()) {
            StringJoiner items = new StringJoiner(", ", "[", "]");
            for (int i = 0; i < Math.min(Array.getLength(raw), 50); i++) {
                items.add(String.valueOf(Array.get(raw, i)));
            }
            return items.toString();
        }
        return raw.toString();
    }

    /** The kind that a data type of namespace 0 stands for; other types are read as other. */
    static DataKind kind(NodeId dataType) {
        if (NodeIds.Boolean.equals(dataType)) {
            return DataKind.BOOLEAN;
        }
        if (NodeIds.Double.equals(dataType) || NodeIds.Float.equals(dataType) || NodeIds.Number.equals(dataType) || NodeIds.Duration.equals(dataType)) {
            return DataKind.NUMBER;
        }
        if (NodeIds.String.equals(dataType) || NodeIds.LocalizedText.equals(dataType) || NodeIds.QualifiedName.equals(dataType)) {
            return DataKind.TEXT;
        }
        if (NodeIds.DateTime.equals(dataType) || NodeIds.UtcTime.equals(dataType)) {
            return DataKind.TIME;
        }
        boolean whole = NodeIds.SByte.equals(dataType) || NodeIds.Byte.equals(dataType) || NodeIds.Int16.equals(dataType)
                || NodeIds.UInt16.equals(dataType) || NodeIds.Int32.equals(dataType) || NodeIds.UInt32.equals(dataType)
                || NodeIds.Int64.equals(dataType) || NodeIds.UInt64.equals(dataType) || NodeIds.Integer.equals(dataType)
                || NodeIds.UInteger.equals(dataType);
        return whole ? DataKind.INTEGER : DataKind.OTHER;
    }
}
