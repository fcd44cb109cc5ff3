package dachshund.standins.modbus;

import com.digitalpetri.modbus.ExceptionCode;
import com.digitalpetri.modbus.FunctionCode;
import com.digitalpetri.modbus.exceptions.ModbusResponseException;
import com.digitalpetri.modbus.exceptions.UnknownUnitIdException;
import com.digitalpetri.modbus.pdu.ReadCoilsRequest;
import com.digitalpetri.modbus.pdu.ReadCoilsResponse;
import com.digitalpetri.modbus.pdu.ReadDiscreteInputsRequest;
import com.digitalpetri.modbus.pdu.ReadDiscreteInputsResponse;
import com.digitalpetri.modbus.pdu.ReadHoldingRegistersRequest;
import com.digitalpetri.modbus.pdu.ReadHoldingRegistersResponse;
import com.digitalpetri.modbus.pdu.ReadInputRegistersRequest;
import com.digitalpetri.modbus.pdu.ReadInputRegistersResponse;
import com.digitalpetri.modbus.pdu.WriteMultipleRegistersRequest;
import com.digitalpetri.modbus.pdu.WriteMultipleRegistersResponse;
import com.digitalpetri.modbus.pdu.WriteSingleCoilRequest;
import com.digitalpetri.modbus.pdu.WriteSingleCoilResponse;
import com.digitalpetri.modbus.pdu.WriteSingleRegisterRequest;
import com.digitalpetri.modbus.pdu.WriteSingleRegisterResponse;
import com.digitalpetri.modbus.server.ModbusRequestContext;
import com.digitalpetri.modbus.server.ModbusRtuServer;
import com.digitalpetri.modbus.server.ModbusServer;
import com.digitalpetri.modbus.server.ModbusServices;
import com.digitalpetri.modbus.server.ModbusTcpServer;
import com.digitalpetri.modbus.server.ProcessImage;
import com.digitalpetri.modbus.server.ReadWriteModbusServices;
import com.digitalpetri.modbus.tcp.server.NettyRtuServerTransport;
import com.digitalpetri.modbus.tcp.server.NettyServerTransportConfig;
import com.digitalpetri.modbus.tcp.server.NettyTcpServerTransport;
import dachshund.standins.plant.EnergyMeter;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.IntStream;

/**
 * The electricity meters behind a Modbus gateway on loopback: units 1 to 8, and a heat meter as unit 9 that refuses
 * registers it does not have. Input registers: 0 power kW (float; units 6 to 8 with the low word first), 10 energy
 * 0.1 kWh (32 bit), 12 energy Wh (64 bit), 20 power factor × 1000, 21 voltage × 10, 30 status bits. Holding registers:
 * 100 tariff (written), 200 to 203 serial number as text. Coil 0 pulse output.
 */
public final class MeterServer implements AutoCloseable {

    private final ModbusServer server;
    private final Map<Integer, ProcessImage> images = new TreeMap<>();
    private final List<EnergyMeter> meters;
    private final Set<Integer> silent = ConcurrentHashMap.newKeySet();

    private MeterServer(int port, boolean rtu, List<EnergyMeter> meters) {
        this.meters = meters;
        for (int unit = 1; unit <= meters.size() + 1; unit++) {
            images.put(unit, new ProcessImage());
            first(unit);
        }
        publish();
        Services services = new Services();
        server = rtu
                ? ModbusRtuServer.create(NettyRtuServerTransport.create(config -> at(config, port)), services)
                : ModbusTcpServer.create(NettyTcpServerTransport.create(config -> at(config, port)), services);
    }

    private static void at(NettyServerTransportConfig.Builder config, int port) {
        config.setBindAddress("127.0.0.1").setPort(port);
    }

    /** @param rtu whether to speak RTU frames over TCP instead of Modbus TCP */
    public static MeterServer start(int port, boolean rtu, List<EnergyMeter> meters) throws InterruptedException {
        MeterServer started = new MeterServer(port, rtu, meters);
        try {
            started.server.start();
        } catch (InterruptedException e) {
            throw e;
        } catch (Exception e) { // the library declares no narrower one
            throw new IllegalStateException("The meters could not listen on port " + port, e);
        }
        return started;
    }

    private void first(int unit) {
        images.get(unit).with(image -> {
            image.writeHoldingRegisters(registers -> {
                put(registers, 100, bytes(2).putShort((short) 1));
                put(
                        registers,
                        200,
                        bytes(8).put(String.format("QM-%04d", 1700 + unit).getBytes(StandardCharsets.US_ASCII)));
            });
            image.writeCoils(coils -> coils.put(0, true));
        });
    }

    private static ByteBuffer bytes(int count) {
        return ByteBuffer.allocate(count);
    }

    private static void put(Map<Integer, byte[]> registers, int address, ByteBuffer value) {
        byte[] bytes = value.array();
        for (int i = 0; i < bytes.length; i += 2) {
            registers.put(address + i / 2, Arrays.copyOfRange(bytes, i, i + 2));
        }
    }

    /** Takes over what the meters show now. */
    public void publish() {
        for (int i = 0; i < meters.size(); i++) {
            EnergyMeter meter = meters.get(i);
            boolean lowFirst = i >= 5;
            int power = Float.floatToIntBits((float) meter.powerKilowatts());
            images.get(i + 1)
                    .with(image -> image.writeInputRegisters(registers -> {
                        put(registers, 0, bytes(4).putInt(lowFirst ? Integer.rotateLeft(power, 16) : power));
                        put(registers, 10, bytes(4).putInt((int) meter.energyTenths()));
                        put(registers, 12, bytes(8).putLong(meter.energyTenths() * 100));
                        put(registers, 20, bytes(2).putShort((short) Math.round(meter.powerFactor() * 1000)));
                        put(registers, 21, bytes(2).putShort((short) Math.round(meter.volts() * 10)));
                        put(registers, 30, bytes(2).putShort((short) (1 | (meter.powerKilowatts() > 200 ? 8 : 0))));
                    }));
        }
        double heat = meters.stream().mapToDouble(EnergyMeter::powerKilowatts).sum();
        images.get(meters.size() + 1)
                .with(image -> image.writeInputRegisters(registers -> {
                    put(registers, 0, bytes(4).putInt(Float.floatToIntBits((float) (heat * 0.4))));
                    put(registers, 10, bytes(2).putShort((short) Math.round(880 + heat * 0.05)));
                    put(registers, 14, bytes(2).putShort((short) Math.round(610 + heat * 0.02)));
                }));
    }

    /** A unit that does not answer any more, as if its wire were cut; or that does again. */
    public void silence(int unit, boolean on) {
        if (on) {
            silent.add(unit);
        } else {
            silent.remove(unit);
        }
    }

    /** The meters' registers as they are; the heat meter knows those it has and no others (V1.1b3, 7: exception 2). */
    private final class Services implements ModbusServices {

        private final ReadWriteModbusServices plain = new ReadWriteModbusServices() {
            @Override
            protected Optional<ProcessImage> getProcessImage(int unit) {
                return silent.contains(unit) ? Optional.empty() : Optional.ofNullable(images.get(unit));
            }
        };

        @Override
        public ReadInputRegistersResponse readInputRegisters(
                ModbusRequestContext context, int unit, ReadInputRegistersRequest request)
                throws UnknownUnitIdException, ModbusResponseException {
            if (unit == meters.size() + 1) {
                boolean all = images.get(unit)
                        .get(image -> image.readInputRegisters(
                                registers -> IntStream.range(request.address(), request.address() + request.quantity())
                                        .allMatch(registers::containsKey)));
                if (!all) {
                    throw new ModbusResponseException(
                            FunctionCode.READ_INPUT_REGISTERS, ExceptionCode.ILLEGAL_DATA_ADDRESS);
                }
            }
            return plain.readInputRegisters(context, unit, request);
        }

        @Override
        public ReadHoldingRegistersResponse readHoldingRegisters(
                ModbusRequestContext context, int unit, ReadHoldingRegistersRequest request)
                throws UnknownUnitIdException {
            return plain.readHoldingRegisters(context, unit, request);
        }

        @Override
        public ReadCoilsResponse readCoils(ModbusRequestContext context, int unit, ReadCoilsRequest request)
                throws UnknownUnitIdException {
            return plain.readCoils(context, unit, request);
        }

        @Override
        public ReadDiscreteInputsResponse readDiscreteInputs(
                ModbusRequestContext context, int unit, ReadDiscreteInputsRequest request)
                throws UnknownUnitIdException {
            return plain.readDiscreteInputs(context, unit, request);
        }

        @Override
        public WriteSingleCoilResponse writeSingleCoil(
                ModbusRequestContext context, int unit, WriteSingleCoilRequest request) throws UnknownUnitIdException {
            return plain.writeSingleCoil(context, unit, request);
        }

        @Override
        public WriteSingleRegisterResponse writeSingleRegister(
                ModbusRequestContext context, int unit, WriteSingleRegisterRequest request)
                throws UnknownUnitIdException {
            return plain.writeSingleRegister(context, unit, request);
        }

        @Override
        public WriteMultipleRegistersResponse writeMultipleRegisters(
                ModbusRequestContext context, int unit, WriteMultipleRegistersRequest request)
                throws UnknownUnitIdException {
            return plain.writeMultipleRegisters(context, unit, request);
        }
    }

    @Override
    public void close() {
        try {
            server.stop();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (Exception e) { // the library declares no narrower one
            throw new IllegalStateException("The meters did not stop.", e);
        }
    }
}
