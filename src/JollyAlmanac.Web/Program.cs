using JollyAlmanac.Web;

return CommandLine.Run(args);
