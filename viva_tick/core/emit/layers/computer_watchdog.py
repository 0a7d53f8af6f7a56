

dog = None


def watchdog_on(ms):
    """The computer's own, in whole seconds: on, it restarts the computer if it is not fed."""
    global dog
    dog = os.open("/dev/watchdog", os.O_WRONLY)
    fcntl.ioctl(dog, 0xC0045706, struct.pack("i", -(-ms // 1000)))  # WDIOC_SETTIMEOUT


def watchdog_feed():
    if dog is not None:
        os.write(dog, b"1")


def cause():
    """Why the computer started: 8 the watchdog, 1 anything else."""
    try:
        line = os.open("/dev/watchdog", os.O_WRONLY)
    except OSError:
        return 1
    status = struct.unpack("i", fcntl.ioctl(line, 0x80045702, struct.pack("i", 0)))[0]  # WDIOC_GETBOOTSTATUS
    os.write(line, b"V")  # and off again
    os.close(line)
    return 8 if status & 0x20 else 1


def restart():
    """The program begins anew; the computer runs on."""
    os.execv(sys.executable, [sys.executable, *sys.argv])


def each_ms(handler):
    def beat():
        while True:
            time.sleep(0.001)
            with handlers:
                handler()

    threading.Thread(target=beat, daemon=True).start()
