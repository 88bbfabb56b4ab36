"""What a case's own runs teach: parameters, errors of like layouts, runs that contradict."""
