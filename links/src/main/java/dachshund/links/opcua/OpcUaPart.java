package dachshund.links.opcua;

import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import java.lang.reflect.Array;
import java.util.Map;
import java.util.Optional;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.sdk.core.types.DynamicStructType;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.UaRuntimeException;
import org.eclipse.milo.opcua.stack.core.encoding.EncodingContext;
import org.eclipse.milo.opcua.stack.core.types.builtin.ExtensionObject;

/**
 * Which part of a node's value a tag is: all of it, an element of an array, or a field of a structure.
 *
 * @param node    address of the node
 * @param element index from 0; -1 for none
 * @param field   name of the field, fields within fields separated by points; empty for none
 * @param context decodes structures; null until the link is connected
 */
record OpcUaPart(String node, int element, String field, EncodingContext context) {

    private static final String NODE = "node";
    private static final String ELEMENT = "element";
    private static final String FIELD = "field";

    static OpcUaPart of(TagInfo tag, EncodingContext context) {
        Map<String, String> how = tag.how();
        return new OpcUaPart(
                how.getOrDefault(NODE, tag.address()),
                Integer.parseInt(how.getOrDefault(ELEMENT, "-1")),
                how.getOrDefault(FIELD, ""),
                context);
    }

    /** The tag of an element of an array. */
    static TagInfo element(TagInfo array, DataKind kind, int index) {
        return new TagInfo(
                        array.address() + " [" + index + "]",
                        array.path(),
                        array.name() + " [" + index + "]",
                        kind,
                        array.unit(),
                        array.description(),
                        array.writable())
                .withHow(Map.of(NODE, array.address(), ELEMENT, Integer.toString(index)));
    }

    /** The tag of a field of a structure; not writable by itself. */
    static TagInfo field(TagInfo structure, DataKind kind, String field) {
        return new TagInfo(
                        structure.address() + " ." + field,
                        structure.path(),
                        structure.name() + " ." + field,
                        kind,
                        "",
                        structure.description(),
                        false)
                .withHow(Map.of(NODE, structure.address(), FIELD, field));
    }

    boolean whole() {
        return element < 0 && field.isEmpty();
    }

    /** The index range to ask the server for (OPC 10000-4, 7.27); null for all. */
    String indexRange() {
        return element < 0 ? null : Integer.toString(element);
    }

    /** The part of a value as the server sent it; absent where there is none. */
    Optional<Object> of(Object raw) {
        if (element >= 0) {
            // The server was asked for this element alone, so the array has one.
            return raw.getClass().isArray() && Array.getLength(raw) > 0
                    ? Optional.ofNullable(Array.get(raw, 0))
                    : Optional.empty();
        }
        Object at = raw;
        for (String name : field.split("\\.")) {
            at = fields(at, context).get(name);
            if (at == null) {
                return Optional.empty();
            }
        }
        return Optional.of(at);
    }

    /** The fields of a structure by name, in its order; empty where it is none. */
    static Map<String, Object> fields(Object value, EncodingContext context) {
        try {
            Object decoded = value instanceof ExtensionObject object ? object.decode(context) : value;
            return decoded instanceof DynamicStructType structure ? structure.getMembers() : Map.of();
        } catch (UaRuntimeException unknownType) {
            return Map.of();
        }
    }

    /** Decodes structures of the connected server, those of its own types included. */
    static EncodingContext context(OpcUaClient client) {
        try {
            return client.getDynamicEncodingContext();
        } catch (UaException noTypes) {
            return client.getStaticEncodingContext();
        }
    }
}
