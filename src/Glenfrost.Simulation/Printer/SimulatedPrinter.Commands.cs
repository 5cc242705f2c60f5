using System.Globalization;

namespace Glenfrost.Simulation.Printer;

/// <summary>What each command does.</summary>
public sealed partial class SimulatedPrinter
{
    private void Do(CommandLine c)
    {
        switch (c.Command)
        {
            case "" or "M110" or "M117" or "M118" or "M73" or "M75" or "M77" or "M82" or "M83" or "G29" or "M420" or "M17" or "M211" or "M155":
                if (c.Command is "M82" or "M83")
                    relativeE = c.Command == "M83";
                break;
            case "G0" or "G1":
                Move(c);
                break;
            case "G2" or "G3":
                Arc(c, c.Command == "G2");
                break;
            case "G4":
                Wait();
                Pass(Math.Clamp((c['S'] ?? 0) + (c['P'] ?? 0) / 1000, 0, 86400));
                break;
            case "G10":
                Firmware(true);
                break;
            case "G11":
                Firmware(false);
                break;
            case "G20" or "G21":
                inches = c.Command == "G20";
                break;
            case "G28":
                Home(c);
                break;
            case "G90" or "G91":
                relative = c.Command == "G91";
                relativeE = relative;
                break;
            case "G92":
                Name(c);
                break;
            case "M104" or "M109":
                Nozzle(c, c.Command == "M109");
                break;
            case "M140" or "M190":
                Bed(c, c.Command == "M190");
                break;
            case "M106":
                var wind = Math.Clamp((c['S'] ?? 255) / 255, 0, 1);
                Later(() => fan = wind);
                break;
            case "M107":
                Later(() => fan = 0);
                break;
            case "M400" or "M0" or "M1":
                Wait();
                break;
            case "M84" or "M18":
                Wait();
                break;
            case "M112":
                Halt("stopped by M112");
                break;
            case "M999":
                Restart();
                break;
            case "M105":
                replies.Add(Report());
                break;
            case "M114":
                replies.Add(
                    string.Create(CultureInfo.InvariantCulture, $"X:{x - offsetX:0.00} Y:{y - offsetY:0.00} Z:{z - offsetZ:0.00} E:{e - offsetE:0.00}"));
                break;
            case "M115":
                replies.Add($"FIRMWARE_NAME:Glenfrost stand-in MACHINE_TYPE:{Spec.Name} EXTRUDER_COUNT:{Math.Max(1, Spec.Tools)}");
                break;
            case "M220":
                speedFactor = Math.Clamp(c['S'] ?? 100, 1, 999) / 100;
                break;
            case "M221":
                flowFactor = Math.Clamp(c['S'] ?? 100, 1, 999) / 100;
                break;
            case "M207":
                Settings = Settings with
                {
                    RetractionMm = Positive(c['S']) ?? Settings.RetractionMm,
                    RetractionMmPerS = Positive(c['F']) / 60 ?? Settings.RetractionMmPerS,
                };
                break;
            case "M500":
                Stored = Settings;
                replies.Add("echo:settings stored");
                break;
            case "M501":
                Settings = Stored;
                replies.Add("echo:stored settings in force");
                break;
            case "M502":
                Settings = Spec.Factory;
                replies.Add("echo:factory settings in force, not stored");
                break;
            case "M503":
                Say();
                break;
            case "M302":
                var cold = (c['P'] ?? 0) > 0 || c['S'] is 0;
                Later(() => coldFeed = cold);
                break;
            case "M900" or "M572":
                Pressure(c['K'] ?? c['S']);
                break;
            case "SET_PRESSURE_ADVANCE":
                Pressure(Named(c, "ADVANCE"));
                break;
            case "SET_EXTRUDER_ROTATION_DISTANCE":
                if (Positive(Named(c, "DISTANCE")) is { } distance)
                    Settings = Settings with { StepsPerMm = StepsPerTurn / distance };
                break;
            case "SET_VELOCITY_LIMIT":
                var (accel, velocity) = (Positive(Named(c, "ACCEL")), Positive(Named(c, "VELOCITY")));
                var corner = Positive(Named(c, "SQUARE_CORNER_VELOCITY"));
                Settings = Settings with
                {
                    Print = accel ?? Settings.Print,
                    Travel = accel ?? Settings.Travel,
                    MaxX = velocity ?? Settings.MaxX,
                    MaxY = velocity ?? Settings.MaxY,
                };
                if (corner is { } right)
                    Settings = Settings with { CornerMm = right * right * (Math.Sqrt(2) - 1) / Settings.Print };
                break;
            case "SET_RETRACTION":
                Settings = Settings with
                {
                    RetractionMm = Positive(Named(c, "RETRACT_LENGTH")) ?? Settings.RetractionMm,
                    RetractionMmPerS = Positive(Named(c, "RETRACT_SPEED")) ?? Settings.RetractionMmPerS,
                };
                break;
            case "M92" or "M201" or "M203" or "M204" or "M205" or "M301":
                Limits(c);
                break;
            default:
                if (c.Command.StartsWith('T') && int.TryParse(c.Command.AsSpan(1), out var t))
                    Tool(t);
                else
                    replies.Add($"echo:\"{(c.Command.Length > 40 ? c.Command[..40] : c.Command)}\" is not known here");
                break;
        }
    }

    private static double? Named(CommandLine c, string name) => c.Named.TryGetValue(name, out var v) ? v : null;

    private static double? Positive(double? v) => v is > 0 and < 1e7 ? v : null;

    private double Unit => inches ? 25.4 : 1;

    private double? Length(CommandLine c, char letter) => c[letter] is { } v && double.IsFinite(v) ? v * Unit : null;

    private void Move(CommandLine c)
    {
        if (Length(c, 'F') is > 0 and var f)
            feed = f / 60;
        var tx = Target(Length(c, 'X'), x, offsetX);
        var ty = Target(Length(c, 'Y'), y, offsetY);
        var tz = Target(Length(c, 'Z'), z, offsetZ);
        Queue(LimitX(tx), LimitY(ty), Math.Clamp(tz, 0, Spec.HeightMm), Feed(Length(c, 'E')), feed);
    }

    private double Feed(double? typed)
    {
        if (typed is not { } v)
            return 0;
        var before = e;
        e = relativeE ? e + v : v + offsetE;
        return Math.Clamp((e - before) * flowFactor, -500, 5000);
    }

    private double Target(double? typed, double now, double offset) => typed is not { } v ? now : relative ? now + v : v + offset;

    private double LimitX(double v) => Spec.OriginInMiddle ? Math.Clamp(v, -Spec.BedXMm / 2, Spec.BedXMm / 2) : Math.Clamp(v, 0, Spec.BedXMm);

    private double LimitY(double v) => Spec.OriginInMiddle ? Math.Clamp(v, -Spec.BedYMm / 2, Spec.BedYMm / 2) : Math.Clamp(v, 0, Spec.BedYMm);

    /// <summary>An arc in chords of half a millimetre, about its centre (I, J) or with a radius (R).</summary>
    private void Arc(CommandLine c, bool clockwise)
    {
        if (Length(c, 'F') is > 0 and var f)
            feed = f / 60;
        var (x0, y0, z0) = (x, y, z);
        var (tx, ty, tz) = (Target(Length(c, 'X'), x, offsetX), Target(Length(c, 'Y'), y, offsetY), Target(Length(c, 'Z'), z, offsetZ));
        double cx, cy;
        if (Length(c, 'R') is { } r)
        {
            var (dx, dy) = (tx - x0, ty - y0);
            var d = Math.Sqrt(dx * dx + dy * dy);
            if (d < 1e-6 || Math.Abs(r) < d / 2 - 1e-6)
            {
                Queue(LimitX(tx), LimitY(ty), tz, Feed(Length(c, 'E')), feed);
                return;
            }

            var off = Math.Sqrt(Math.Max(0, r * r - d * d / 4)) * (clockwise ^ r < 0 ? -1 : 1);
            (cx, cy) = (x0 + dx / 2 - dy / d * off, y0 + dy / 2 + dx / d * off);
        }
        else
        {
            (cx, cy) = (x0 + (Length(c, 'I') ?? 0), y0 + (Length(c, 'J') ?? 0));
        }

        var radius = Math.Sqrt((x0 - cx) * (x0 - cx) + (y0 - cy) * (y0 - cy));
        var from = Math.Atan2(y0 - cy, x0 - cx);
        var sweep = Math.Atan2(ty - cy, tx - cx) - from;
        if (clockwise && sweep >= -1e-9)
            sweep -= 2 * Math.PI;
        if (!clockwise && sweep <= 1e-9)
            sweep += 2 * Math.PI;
        var n = Math.Clamp((int)Math.Ceiling(Math.Abs(sweep) * radius / 0.5), 1, 20000);
        var de = Feed(Length(c, 'E')) / n;
        for (var i = 1; i <= n; i++)
        {
            var a = from + sweep * i / n;
            var (px, py) = i == n ? (tx, ty) : (cx + radius * Math.Cos(a), cy + radius * Math.Sin(a));
            Queue(LimitX(px), LimitY(py), z0 + (tz - z0) * i / n, de, feed);
        }
    }

    private void Firmware(bool back)
    {
        if (back == withdrawn)
            return;
        withdrawn = back;
        Queue(x, y, z, back ? -Settings.RetractionMm : Settings.RetractionMm, Settings.RetractionMmPerS);
    }

    private void Home(CommandLine c)
    {
        Wait();
        var all = !c.Has('X') && !c.Has('Y') && !c.Has('Z');
        Pass(all ? 18 : 6);
        if (all || c.Has('X'))
            (x, offsetX) = (Spec.OriginInMiddle ? -Spec.BedXMm / 2 : 0, 0);
        if (all || c.Has('Y'))
            (y, offsetY) = (Spec.OriginInMiddle ? -Spec.BedYMm / 2 : 0, 0);
        if (all || c.Has('Z'))
            (z, offsetZ) = (0, 0);
    }

    /// <summary>G92 names the place where it stands.</summary>
    private void Name(CommandLine c)
    {
        if (Length(c, 'X') is { } nx)
            offsetX = x - nx;
        if (Length(c, 'Y') is { } ny)
            offsetY = y - ny;
        if (Length(c, 'Z') is { } nz)
            offsetZ = z - nz;
        if (Length(c, 'E') is { } ne)
            offsetE = e - ne;
    }

    private void Nozzle(CommandLine c, bool wait)
    {
        var which = c['T'] is { } t && double.IsFinite(t) ? Math.Clamp((int)t, 0, nozzles.Length - 1) : tool;
        var target = Math.Clamp(c['S'] ?? c['R'] ?? 0, 0, Spec.HeaterMaxC);
        if (!double.IsFinite(target))
            return;
        if (!wait)
        {
            Later(() => nozzles[which].TargetC = target);
            return;
        }

        Wait();
        nozzles[which].TargetC = target;
        Until(nozzles[which], c['R'] is not null || Spec.WaitsForCooling);
    }

    private void Bed(CommandLine c, bool wait)
    {
        var target = Math.Clamp(c['S'] ?? c['R'] ?? 0, 0, Spec.BedMaxC);
        if (!double.IsFinite(target))
            return;
        if (!wait)
        {
            Later(() => bed.TargetC = target);
            return;
        }

        Wait();
        bed.TargetC = target;
        Until(bed, c['R'] is not null || Spec.WaitsForCooling);
    }

    /// <summary>Waits, with a report every two seconds and a busy message every ten.</summary>
    private void Until(Heater h, bool alsoCooling)
    {
        for (var s = 0; s < 7200 && Halted is null && !halted && h.TargetC > 0 && (h.C < h.TargetC - 1 || (alsoCooling && h.C > h.TargetC + 1)); s++)
        {
            Pass(1);
            if (s % 2 == 1)
                replies.Add(Report());
            if (s % 10 == 9)
                replies.Add("echo:busy: processing");
        }
    }

    private void Tool(int t)
    {
        if (t < 0 || t >= nozzles.Length)
        {
            replies.Add($"echo:there is no tool {t}");
            return;
        }

        Wait();
        tool = t;
        Pass(nozzles.Length > 1 ? 4 : 0);
    }

    private void Restart()
    {
        (Halted, halted) = (null, false);
        foreach (var n in nozzles)
            n.Dead = false;
        bed.Dead = false;
        Settings = Stored;
    }

    private void Pressure(double? k)
    {
        if (k is >= 0 and < 10)
            Later(() => (Settings, pressureSet) = (Settings with { PressureAdvanceS = k.Value }, true));
    }

    private void Limits(CommandLine c)
    {
        Wait();
        var s = Settings;
        double At(char letter, double now) => Positive(c[letter]) ?? now;
        Settings = c.Command switch
        {
            "M92" => s with { StepsPerMm = At('E', s.StepsPerMm) },
            "M201" => s with
            {
                AccelerationX = At('X', s.AccelerationX),
                AccelerationY = At('Y', s.AccelerationY),
                AccelerationZ = At('Z', s.AccelerationZ),
                AccelerationE = At('E', s.AccelerationE),
            },
            "M203" => s with { MaxX = At('X', s.MaxX), MaxY = At('Y', s.MaxY), MaxZ = At('Z', s.MaxZ), MaxE = At('E', s.MaxE) },
            "M204" => s with { Print = At('P', At('S', s.Print)), Travel = At('T', At('S', s.Travel)), Retract = At('R', s.Retract) },
            "M205" => s with { CornerMm = At('J', c['X'] is > 0 and var v ? v * v * (Math.Sqrt(2) - 1) / s.Print : s.CornerMm) },
            _ => s with { PidP = At('P', s.PidP), PidI = At('I', s.PidI), PidD = At('D', s.PidD) },
        };
    }

    private void Say()
    {
        var s = Settings;
        void Line(FormattableString text) => replies.Add("echo:  " + FormattableString.Invariant(text));
        replies.Add("echo:; settings in force");
        Line($"M92 E{s.StepsPerMm:0.##}");
        Line($"M203 X{s.MaxX:0.##} Y{s.MaxY:0.##} Z{s.MaxZ:0.##} E{s.MaxE:0.##}");
        Line($"M201 X{s.AccelerationX:0.##} Y{s.AccelerationY:0.##} Z{s.AccelerationZ:0.##} E{s.AccelerationE:0.##}");
        Line($"M204 P{s.Print:0.##} R{s.Retract:0.##} T{s.Travel:0.##}");
        Line($"M205 J{s.CornerMm:0.####}");
        Line($"M207 S{s.RetractionMm:0.##} F{s.RetractionMmPerS * 60:0}");
        Line($"M301 P{s.PidP:0.##} I{s.PidI:0.##} D{s.PidD:0.##}");
        if (Spec.TalksMacros)
            Line($"SET_PRESSURE_ADVANCE ADVANCE={s.PressureAdvanceS:0.####}");
        else
            Line($"M900 K{s.PressureAdvanceS:0.####}");
    }
}
