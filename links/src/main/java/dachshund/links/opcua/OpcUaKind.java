package dachshund.links.opcua;

import dachshund.core.source.LinkKind;
import dachshund.core.source.PlantLink;
import dachshund.core.source.SettingField;
import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.util.List;
import java.util.Map;

/** OPC UA over TCP (OPC 10000-4 and -6), for now with security None and anonymous. */
public final class OpcUaKind implements LinkKind {

    static final String ADDRESS = "address";

    @Override
    public String id() {
        return "opcua";
    }

    @Override
    public String title() {
        return "OPC UA";
    }

    @Override
    public List<SettingField> settings() {
        return List.of(new SettingField(ADDRESS, "Address", "opc.tcp://192.168.10.20:4840", "opc.tcp://", false, OpcUaAddress::problem));
    }

    @Override
    public PlantLink open(Map<String, String> settings, Duration rate, PlantClock clock) {
        return new OpcUaLink(OpcUaAddress.read(settings.getOrDefault(ADDRESS, "")), rate, clock);
    }
}
