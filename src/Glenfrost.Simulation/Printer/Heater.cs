namespace Glenfrost.Simulation.Printer;

/// <summary>A heated block: rises at most so fast, comes near its target with a time constant, cools by what it loses to the room.</summary>
/// <param name="roomC">What it cools to, °C.</param>
/// <param name="riseCPerS">Fastest rise, °C/s.</param>
/// <param name="lossS">Time constant of cooling, s.</param>
/// <param name="followS">Time constant near the target, s.</param>
public sealed class Heater(double roomC, double riseCPerS, double lossS, double followS)
{
    private double aboveRoom;

    /// <summary>°C.</summary>
    public double C
    {
        get => roomC + aboveRoom;
        private set => aboveRoom = value - roomC;
    }

    /// <summary>°C; 0 is off.</summary>
    public double TargetC { get; set; }

    /// <summary>True where the heater stays on whatever is asked.</summary>
    public bool StuckOn { get; set; }

    /// <summary>True where it is switched off for good.</summary>
    public bool Dead { get; set; }

    /// <summary>Lets time pass.</summary>
    public void Pass(double seconds)
    {
        // Steps short against the time constants, so that a long dwell is as right as a short move.
        while (seconds > 0)
        {
            var dt = Math.Min(seconds, followS / 4);
            seconds -= dt;
            var fall = (C - roomC) * (1 - Math.Exp(-dt / lossS));
            var target = Dead ? 0 : TargetC;
            if (StuckOn && !Dead)
            {
                C += riseCPerS * dt;
            }
            else if (target > C)
            {
                C += Math.Min(riseCPerS * dt, (target - C) * (1 - Math.Exp(-dt / followS)));
            }
            else
            {
                var gentle = target <= 0 ? double.MaxValue : (C - target) * (1 - Math.Exp(-dt / followS));
                C -= Math.Min(fall, gentle);
            }
        }
    }
}
